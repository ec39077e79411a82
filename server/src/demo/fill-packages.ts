/** The demo's packages, whose containers are really built, and the certificates that sign them. */
import { mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { DAY } from '@vatline/core/time/instant';
import { makeAuthority } from '@vatline/demo/certificates';
import { readIdentity } from '@vatline/files/signing-identity';
import { signContainer } from '@vatline/files/sign-container';
import { folderTree } from '@vatline/files/folder-tree';
import { packContainer } from '@vatline/files/pack-container';
import { generatePayload, type InstallerPlan } from '@vatline/demo/payload';
import { applications, installerOf } from '@vatline/demo/applications';
import { usualAttach, type PackageManifest } from '@vatline/core/container/manifest';
import type { PracticeEstate } from '../estate/practice/practice-estate.ts';
import { detailsOf } from '../package/pack-job.ts';
import { unsigned } from '../package/versions.ts';
import type { Parts } from '../platform/parts.ts';
import type { Made, Stores } from './made.ts';

/** Builds the container of every packaged version from generated files, signs it and puts it on the share. */
export async function fillPackages(
  parts: Parts,
  estate: PracticeEstate,
  stores: Stores,
  made: Made,
  start: number,
  say: (text: string) => void,
): Promise<void> {
  let bytes = 0;
  const signers = await fillCertificates(estate, stores, start);
  for (const application of applications) {
    const packageId = await stores.packages.library.add({
      name: application.name,
      publisher: application.publisher,
      delivery: application.delivery,
      note: application.note,
    });
    made.packages.set(application.name, packageId);
    if (application.sideBySide)
      await parts.db.updateTable('package').set({ side_by_side: 1 }).where('id', '=', packageId).execute();
    if (application.delivery !== 'container') continue;
    for (const version of application.versions) {
      const plan = installerOf(application, version);
      const manifest = manifestOf(application.name, plan);
      const packed = await packPlan(parts, stores, plan, manifest);
      bytes += packed.bytesIn;
      const row = {
        package_id: packageId,
        version,
        state: 'live',
        digest: packed.sha256,
        files: packed.files,
        size_bytes: packed.bytesIn,
        container_bytes: packed.bytesOut,
        details_json: detailsOf(manifest, manifest.settings?.length ?? 0),
        built_ms: start - 60 * DAY,
        format: 'squashfs',
        capture_id: null,
        share: DEMO_SHARE,
        sign_in_json: null,
        ...unsigned,
        ...signers.sign(application.name, stores.packages.containers.path(packed.sha256), packed.sha256),
      } as const;
      const id = await stores.packages.versions.add(row, plan.entryPoints);
      await stores.packages.containers.add({
        version_id: id,
        format: 'squashfs',
        digest: packed.sha256,
        size_bytes: packed.bytesOut,
        seconds: packed.seconds,
        built_ms: start - 60 * DAY,
      });
      made.containers.set(`${application.name} ${version}`, id);
      const container = stores.packages.containers.path(packed.sha256);
      await estate.share.seed(DEMO_SHARE, packed.sha256, container);
      await estate.share.seed(DEMO_SHARE, `${packed.sha256}.p7s`, `${container}.p7s`);
    }
  }
  say(`${made.containers.size} containers built from ${(bytes / 1e6).toFixed(0)} MB of generated files`);
}

/** Where the demo's containers lie. */
export const DEMO_SHARE = 'containers';

/** The package whose certificate runs out before its next rollout. */
const EXPIRING = 'Tillbeck Cash';

/** What signs the containers of the demo: all but one with the certificate that is good for long. */
async function fillCertificates(estate: PracticeEstate, stores: Stores, start: number) {
  const authority = makeAuthority(start);
  await estate.trust.add('', authority.root);
  const bring = async ({ name, pem }: { name: string; pem: string }) => {
    const identity = readIdentity(name, Buffer.from(pem), '');
    return { identity, id: await stores.certificates.add(name, identity) };
  };
  const valid = await bring(authority.valid);
  const expiring = await bring(authority.expiring);
  await bring(authority.untrusted);
  const signed_ms = start - 60 * DAY;
  return {
    sign: (application: string, container: string, digest: string) => {
      const signer = application === EXPIRING ? expiring : valid;
      signContainer(container, digest, signer.identity, signed_ms);
      const chain = [signer.identity.certificate, ...signer.identity.chain];
      return { certificate_id: signer.id, signed_ms, signer_pem: chain.map(String).join('') };
    },
  };
}

/** What the container says: what the installer sets, with what it needs and when it is attached. */
function manifestOf(name: string, plan: InstallerPlan): PackageManifest {
  const needs = applications.find((row) => row.name === name)?.needs;
  const runtime = applications.find((row) => row.name === needs)?.versions.at(-1);
  const { version, publisher, entryPoints, licence, settings } = plan;
  return {
    name,
    version,
    publisher,
    entryPoints,
    ...(licence ? { licence } : {}),
    ...(needs ? { dependencies: [{ name: needs, range: `>=${runtime ?? '0'}` }] } : {}),
    attach: usualAttach,
    settings: settings.filter((entry) => entry.kind !== 'application' && entry.kind !== 'driver'),
  };
}

/** Generates the files, packs them, and throws the files away. */
async function packPlan(parts: Parts, stores: Stores, plan: InstallerPlan, manifest: PackageManifest) {
  const folder = join(parts.dataFolder, 'filling', plan.id);
  for (const { path, content } of generatePayload(plan)) {
    const target = join(folder, path);
    mkdirSync(dirname(target), { recursive: true });
    writeFileSync(target, content);
  }
  const started = performance.now();
  const out = join(parts.dataFolder, 'containers', `filling-${plan.id}`);
  rmSync(out, { recursive: true, force: true });
  const packed = await packContainer({
    tree: folderTree(folder),
    format: 'squashfs',
    out,
    manifest,
    epoch: Date.UTC(2027, 0, 1) / 1000,
  });
  renameSync(out, stores.packages.containers.path(packed.sha256));
  renameSync(`${out}.cdx.json`, `${stores.packages.containers.path(packed.sha256)}.cdx.json`);
  rmSync(join(parts.dataFolder, 'filling'), { recursive: true });
  return { ...packed, seconds: Math.round(performance.now() - started) / 1000 };
}
