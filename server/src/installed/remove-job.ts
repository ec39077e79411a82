/** Takes an application away from the hosts of its rule group, by their agents. */
import { dependants } from '@vatline/core/installed/removal';
import type { JobKind } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { hostsOf } from './forecast.ts';
import { runOn, whatCame } from './host-run.ts';
import type { InstallInput } from './install-job.ts';
import type { InstallationStore } from './store.ts';

export function removeJob(parts: Parts, store: InstallationStore): JobKind<InstallInput> {
  return {
    kind: 'uninstall',
    paced: true,
    steps: async ({ installationId: id }) => {
      const installation = await store.installation(id);
      const hosts = await hostsOf(parts, installation.hosts);
      const others = (await store.all()).map((row) => row.installation);
      const work = {
        id,
        installation,
        when: installation,
        verb: 'uninstall',
        dependants: dependants(installation, others),
      } as const;
      return [
        {
          title: `${installation.name} ${installation.version} from ${hosts.length} hosts`,
          run: async (context) => {
            const ended = new Set(
              (await store.reports(id)).flatMap((row) => (row.state === 'waiting' ? [] : [row.host])),
            );
            // Taken up after a restart, hosts that have reported are not asked again.
            const left = hosts.filter((host) => !ended.has(host.name));
            let done = ended.size;
            await context.together(
              left.map((host) => async () => {
                await runOn(parts, store, context, work, host);
                context.progress(++done / Math.max(1, hosts.length));
                parts.journal.tell('package');
              }),
            );
            await context.log(await whatCame(store, id));
          },
        },
      ];
    },
    ended: async ({ installationId }, state) => {
      if (state !== 'done') await store.cancelWaiting(installationId);
    },
  };
}
