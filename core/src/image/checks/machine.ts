/** Checks of the build machine as it is now. */
import { freeId } from '../new-step.ts';
import type { Check } from './check.ts';

export const machineChecks: readonly Check[] = [
  {
    id: 'built',
    always: true,
    find: ({ given: { machine } }) =>
      machine.exists && machine.upToDate
        ? undefined
        : {
            severity: 'stops the cut',
            title: machine.exists ? 'The machine is behind the recipe' : 'There is no build machine yet',
            reason: 'a version would not hold what its recipe says',
            evidence: machine.exists ? 'steps of the recipe have not run on it' : 'no build has finished',
            fix: { action: 'build' },
          },
  },
  {
    id: 'running',
    always: true,
    find: ({ given: { machine } }) =>
      machine.exists && machine.running
        ? {
            severity: 'stops the cut',
            title: 'The build machine is running',
            reason: 'a copy of a running machine holds half-written files',
            evidence: 'the hypervisor reports it powered on',
            fix: { action: 'shut down' },
          }
        : undefined,
  },
  {
    id: 'restart pending',
    find: ({ given: { machine } }) =>
      machine.exists && machine.restartPending
        ? {
            severity: 'stops the cut',
            title: 'A restart is pending',
            reason: 'every host would finish the installation at its first start, with people waiting',
            evidence: 'an installer ended with exit 3010 and no restart came after it',
            fix: { action: 'restart' },
          }
        : undefined,
  },
  {
    id: 'agent answers',
    find: (line) =>
      !line.given.machine.exists || line.given.machine.agent || !line.has('host agent')
        ? undefined
        : {
            severity: 'stops the cut',
            title: 'The host agent does not answer',
            reason: 'hosts made from it could not attach a package or report that they are well',
            evidence: 'the recipe installs it, the machine does not report it',
            fix: { action: 'build' },
          },
  },
  {
    id: 'joined',
    find: (line) =>
      !line.given.machine.exists || line.given.machine.joined || !line.has('join directory')
        ? undefined
        : {
            severity: 'stops the cut',
            title: 'Not joined to the directory',
            reason: 'each clone would ask for the joined-machine components on its first start',
            evidence: 'the directory has no computer account for it',
            fix: { action: 'build' },
          },
  },
  {
    id: 'changed by hand',
    find: ({ given: { machine } }) => {
      const { count, first } = machine.changedByHand;
      if (count === 0) return undefined;
      return {
        severity: 'attention',
        title: 'The machine was changed by hand',
        reason: 'this version would hold it, and the next build would not, without anybody noticing',
        evidence: `${first}${count > 1 ? ` and ${count - 1} more differ` : ' differs'} from the last checkpoint`,
        fix: { action: 'build' },
      };
    },
  },
  {
    id: 'updater left on',
    find: (line) => {
      const off = new Set([
        ...line
          .of('service start')
          .filter((step) => step.start === 'disabled')
          .map((step) => step.name),
        ...line
          .of('scheduled task')
          .filter((step) => step.action === 'remove')
          .map((step) => step.name),
      ]);
      const left = line.given.machine.updaters.flatMap(({ entry }) =>
        (entry.kind === 'service' && entry.start !== 'disabled') || entry.kind === 'task'
          ? off.has(entry.name)
            ? []
            : [entry]
          : [],
      );
      if (left.length === 0) return undefined;
      return {
        severity: 'attention',
        title: left.length === 1 ? 'An updater is left on' : `${left.length} updaters are left on`,
        reason: 'hosts of one version would differ after the first night, and nobody would know why',
        evidence: left.map((entry) => `${entry.kind} ${entry.name}`).join(', '),
        fix: {
          action: 'change',
          label: left.length === 1 ? 'Switch it off in the recipe' : 'Switch them off in the recipe',
          steps: line.appended(
            left.map((entry, i) =>
              entry.kind === 'service'
                ? {
                    id: freeId(`updater-off-${i + 1}-${slug(entry.name)}`, line.given.steps),
                    kind: 'service start',
                    name: entry.name,
                    start: 'disabled',
                  }
                : {
                    id: freeId(`updater-off-${i + 1}-${slug(entry.name)}`, line.given.steps),
                    kind: 'scheduled task',
                    name: entry.name,
                    action: 'remove',
                    command: '',
                    schedule: '',
                  },
            ),
          ),
        },
      };
    },
  },
];

const slug = (name: string) =>
  name
    .toLowerCase()
    .replace(/[^\w]+/g, '-')
    .slice(0, 40);
