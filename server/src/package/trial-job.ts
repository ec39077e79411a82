/** Attaching a container on one host for nobody, to see that it works and what it takes. */
import type { SignInFacts } from '@vatline/contract/package';
import type { AttachMeasure } from '../estate/driver/hosts.ts';
import { fromJson } from '../platform/database.ts';
import type { JobKind } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import { entryPointsOf } from './entry-points.ts';
import type { PackageStore } from './store.ts';

export interface TrialInput {
  readonly versionId: string;
  readonly host: string;
}

export function trialJob(parts: Parts, store: PackageStore): JobKind<TrialInput> {
  const { agents, clock } = parts.estate;
  return {
    kind: 'trial',
    paced: true,
    steps: ({ versionId, host }) =>
      Promise.resolve([
        {
          title: `Attach it on ${host}, measure, take it away`,
          run: async (context) => {
            const { digest, share, format } = await store.versions.get(versionId);
            if (share === null) throw conflict('It is on no share; offer it to hosts first');
            const entryPoints = (await entryPointsOf(parts.db, versionId)).length;
            const { result } = await context.operation((attempt) =>
              agents.trial(`${context.jobId}/trial/${attempt}`, host, { digest, share }, entryPoints),
            );
            const measured = fromJson<AttachMeasure>(result);
            const facts: SignInFacts = {
              ...measured,
              host,
              at: clock.now(),
              format,
            };
            await store.versions.update(versionId, { sign_in_json: JSON.stringify(facts) });
            await context.log(
              `${measured.operations} reads, mounted in ${measured.mountMs} ms, registered in ${measured.registerMs} ms`,
            );
            parts.journal.tell('package', 'estate');
          },
        },
      ]),
  };
}
