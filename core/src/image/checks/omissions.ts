/** Checks for what a recipe forgot. */
import { freeId, licenceByDirectory, newStep } from '../new-step.ts';
import type { RegistryStep, Step } from '../recipe.ts';
import { applicationKinds, isApplication, type Check, type CheckedLine } from './check.ts';

const added = (line: CheckedLine, kind: Step['kind']) => newStep(kind, line.given.steps, line.given.sources);

/** The first step that installs an application, before which the base of the machine is laid. */
const firstApplication = (line: CheckedLine) => line.run[line.firstOf(...applicationKinds)];

export const omissionChecks: readonly Check[] = [
  {
    id: 'agent',
    find: (line) =>
      line.has('host agent')
        ? undefined
        : {
            severity: 'stops the cut',
            title: 'No host agent',
            reason: 'hosts made from it could not attach a package or report that they are well',
            evidence: 'the recipe has no host agent step',
            fix: {
              action: 'change',
              label: 'Add a host agent step',
              steps: line.appended([added(line, 'host agent')]),
            },
          },
  },
  {
    id: 'join',
    find: (line) =>
      line.has('join directory')
        ? undefined
        : {
            severity: 'stops the cut',
            title: 'Never joined to the directory',
            reason: 'each clone would ask for the joined-machine components on its first start',
            evidence: 'the recipe has no join step',
            fix: {
              action: 'change',
              label: 'Add a join step',
              steps: line.placed(
                [added(line, 'join directory')],
                line.of('host agent')[0] ??
                  firstApplication(line) ??
                  line.run.findLast((s) => s.kind === 'restart'),
              ),
            },
          },
  },
  {
    id: 'updates',
    find: (line) =>
      line.has('updates')
        ? undefined
        : {
            severity: 'attention',
            title: 'No updates',
            reason: 'hosts would go out with every hole found since the media was made',
            evidence: 'the recipe has no updates step',
            fix: {
              action: 'change',
              label: 'Add an updates step',
              steps: line.placed([added(line, 'updates')], line.run[line.firstOf('operating system') + 1]),
            },
          },
  },
  {
    id: 'newest updates',
    find: (line) => {
      const { release } = line.given.sources;
      const step = line.of('updates').at(-1);
      if (!step || release === '' || step.release >= release) return undefined;
      return {
        severity: 'attention',
        title: `Updates stop at ${step.release}`,
        reason: 'what has been mended since would be open on every host',
        evidence: `the feed has ${release}`,
        fix: {
          action: 'change',
          label: `Take the updates up to ${release}`,
          steps: line.changed((other) => (other.id === step.id ? { ...step, release } : other)),
        },
      };
    },
  },
  {
    id: 'newest agent',
    find: (line) => {
      const { agentVersion } = line.given.sources;
      const step = line.of('host agent').at(-1);
      if (!step || agentVersion === '' || step.version === agentVersion) return undefined;
      return {
        severity: 'attention',
        title: `The host agent is ${step.version}`,
        reason: 'agents of two versions report differently, and only the newest is looked after',
        evidence: `the newest is ${agentVersion}`,
        fix: {
          action: 'change',
          label: `Take agent ${agentVersion}`,
          steps: line.changed((other) => (other.id === step.id ? { ...step, version: agentVersion } : other)),
        },
      };
    },
  },
  {
    id: 'tools',
    find: (line) =>
      line.has('guest tools')
        ? undefined
        : {
            severity: 'attention',
            title: 'No guest tools',
            reason: 'disk and network would run on slow stand-in devices on every host',
            evidence: 'the recipe has no guest tools step',
            fix: {
              action: 'change',
              label: 'Add a guest tools step',
              steps: line.placed(
                [added(line, 'guest tools')],
                line.run[line.firstOf('operating system') + 1],
              ),
            },
          },
  },
  {
    id: 'licence for clones',
    find: (line) => {
      const set =
        line
          .of('registry setting')
          .some((step) => /licen[cs]|activation/i.test(`${step.key} ${step.name}`)) ||
        line.of('script').some((step) => /licen[cs]|activat/i.test(`${step.title} ${step.text}`));
      return set
        ? undefined
        : {
            severity: 'attention',
            title: 'No licence method for clones',
            reason: 'a licence bound to the build machine is void on every clone of it',
            evidence: 'no setting or script of the recipe speaks of a licence',
            fix: {
              action: 'change',
              label: 'Let the directory license clones',
              steps: line.appended([
                { ...(added(line, 'registry setting') as RegistryStep), ...licenceByDirectory },
              ]),
            },
          };
    },
  },
  {
    id: 'settle',
    find: (line) =>
      line.has('wait for settle') || !line.has('updates')
        ? undefined
        : {
            severity: 'attention',
            title: 'Nothing waits for the machine to settle',
            reason: 'updates go on working after they say they are done; a copy would catch them half way',
            evidence: 'the recipe has no wait for settle',
            fix: {
              action: 'change',
              label: 'Wait before the last restart',
              steps: line.appended([added(line, 'wait for settle')]),
            },
          },
  },
  {
    id: 'shortcuts',
    find: (line) => {
      // Before the recipe has run, what it will leave is not known.
      const { upToDate, shortcuts } = line.given.machine;
      const places = [...shortcuts, ...line.of('shortcut').map((step) => `${step.name} ${step.target}`)];
      const bare = line.run.filter(
        (step) =>
          isApplication(step) &&
          !places.some((place) => place.toLowerCase().includes(step.name.toLowerCase())),
      ) as Extract<Step, { name: string; publisher: string }>[];
      if (!upToDate || bare.length === 0) return undefined;
      return {
        severity: 'attention',
        title:
          bare.length === 1
            ? 'An application that nobody finds'
            : `${bare.length} applications that nobody finds`,
        reason: 'without a shortcut for all users it is there only for the account that installed it',
        evidence: `no shortcut to ${bare.map((step) => step.name).join(', ')}`,
        fix: {
          action: 'change',
          label: bare.length === 1 ? 'Add a shortcut' : 'Add shortcuts',
          steps: line.appended(
            bare.map((step) => ({
              id: freeId(`shortcut-${step.id}`.slice(0, 56), line.given.steps),
              kind: 'shortcut',
              name: step.name,
              target: `Program files/${step.name}/program.exe`,
              place: 'start menu',
            })),
          ),
        },
      };
    },
  },
  {
    id: 'success checks',
    find: (line) => {
      const bare = line.run.filter((step) => isApplication(step) && !step.success);
      if (bare.length === 0) return undefined;
      const ids = new Set(bare.map((step) => step.id));
      return {
        severity: 'attention',
        title: `Nothing looks whether ${bare.length === 1 ? 'an application is' : `${bare.length} applications are`} there`,
        reason: 'an installer that ends well and leaves nothing is found on the hosts',
        evidence: `no success check on step ${bare.map((step) => line.number(step)).join(', ')}`,
        fix: {
          action: 'change',
          label: 'Look for their versions',
          steps: line.changed((step) =>
            ids.has(step.id) && isApplication(step)
              ? { ...step, success: { kind: 'version', name: step.name, atLeast: step.version } }
              : step,
          ),
        },
      };
    },
  },
];
