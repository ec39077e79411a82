/** Calls of the packages station. */
import { captureEndpoints } from '@vatline/contract/capture';
import { noiseRuleEndpoints } from '@vatline/contract/noise-rules';
import { packageEndpoints } from '@vatline/contract/package';
import { shareEndpoints } from '@vatline/contract/share';
import { api, does, reads, readsPages } from './base.ts';

export const packagesApi = api.injectEndpoints({
  endpoints: (build) => ({
    packages: readsPages(build, packageEndpoints.list),
    installers: reads(build, captureEndpoints.installers),
    capture: does(build, captureEndpoints.capture),
    getCapture: reads(build, captureEndpoints.getCapture),
    judgement: reads(build, captureEndpoints.judgement),
    judge: does(build, captureEndpoints.judge),
    captureText: reads(build, captureEndpoints.text),
    draft: reads(build, captureEndpoints.draft),
    keepDraft: does(build, captureEndpoints.keepDraft),
    estimate: reads(build, captureEndpoints.estimate),
    noiseRules: reads(build, noiseRuleEndpoints.list),
    tryNoiseRules: does(build, noiseRuleEndpoints.try),
    keepNoiseRules: does(build, noiseRuleEndpoints.keep),
    removeNoiseRules: does(build, noiseRuleEndpoints.remove),
    pack: does(build, captureEndpoints.pack),
    verify: does(build, packageEndpoints.verify),
    sign: does(build, packageEndpoints.sign),
    chooseContainer: does(build, packageEndpoints.choose),
    contents: reads(build, packageEndpoints.contents),
    clashes: reads(build, packageEndpoints.clashes),
    blendClashes: reads(build, packageEndpoints.blendClashes),
    certificates: reads(build, packageEndpoints.certificates),
    deleteCertificate: does(build, packageEndpoints.deleteCertificate),
    changePackage: does(build, packageEndpoints.change),
    deletePackageVersions: does(build, packageEndpoints.deleteVersions),
    packageComparison: reads(build, packageEndpoints.compareVersions),
    offer: does(build, packageEndpoints.offer),
    trial: does(build, packageEndpoints.trial),
    shareDemand: reads(build, shareEndpoints.demand),
    setShareRights: does(build, shareEndpoints.setRights),
    setPackageState: does(build, packageEndpoints.setState),
  }),
});
