/** Checks of the order of steps. */
import { freeId } from '../new-step.ts';
import type { Step } from '../recipe.ts';
import { applicationKinds, isApplication, type Check, type CheckedLine, type Finding } from './check.ts';

/** Steps after which a machine asks to be restarted. */
const askForRestart = [
  'updates',
  'guest tools',
  'language pack',
  'join directory',
  ...applicationKinds,
] as const;

/** A finding that a step stands too far down, with the move that mends it. */
function tooLate(
  line: CheckedLine,
  step: Step | undefined,
  before: Step | undefined,
  say: Pick<Finding, 'title' | 'reason'>,
): Finding | undefined {
  if (!step || !before || line.run.indexOf(step) < line.run.indexOf(before)) return undefined;
  return {
    severity: 'attention',
    ...say,
    evidence: `step ${line.number(step)} comes after step ${line.number(before)}`,
    fix: {
      action: 'change',
      label: `Move step ${line.number(step)} up`,
      steps: line.placed([step], before),
    },
  };
}

export const orderChecks: readonly Check[] = [
  {
    id: 'restart before the cut',
    find: (line) => {
      const last = line.run.findLast((step) => askForRestart.some((kind) => kind === step.kind));
      if (!last || last.restart !== undefined) return undefined;
      if (line.lastOf('restart') > line.run.indexOf(last)) return undefined;
      return {
        severity: 'stops the cut',
        title: 'No restart at the end',
        reason: 'what still waits for one would be finished on every host at its first start',
        evidence: `nothing restarts the machine after step ${line.number(last)}`,
        fix: {
          action: 'change',
          label: 'Add a restart at the end',
          steps: line.placed([{ id: freeId('restart-before-the-cut', line.given.steps), kind: 'restart' }]),
        },
      };
    },
  },
  {
    id: 'tools before applications',
    find: (line) =>
      tooLate(line, line.of('guest tools')[0], line.run.find(isApplication), {
        title: 'Guest tools come after applications',
        reason: 'applications would be set up against the slow stand-in devices, and some keep them',
      }),
  },
  {
    id: 'languages before updates',
    find: (line) =>
      tooLate(line, line.of('language pack').at(-1), line.of('updates')[0], {
        title: 'A language pack comes after the updates',
        reason: 'its files are as old as the media; the updates would have to run once more',
      }),
  },
  {
    id: 'join before applications',
    find: (line) =>
      tooLate(line, line.of('join directory')[0], line.run.find(isApplication), {
        title: 'Joined after applications',
        reason: 'the components of joined machines would be missing while applications look for them',
      }),
  },
  {
    id: 'join before the agent',
    find: (line) =>
      tooLate(line, line.of('join directory')[0], line.of('host agent')[0], {
        title: 'The agent comes before the join',
        reason: 'it would register under the name of a machine that is in no directory',
      }),
  },
  {
    id: 'clean-up at the end',
    find: (line) => {
      const cleanUp = line.of('clean-up').at(-1);
      const installs = line.lastOf('updates', 'language pack', ...applicationKinds);
      if (!cleanUp || line.run.indexOf(cleanUp) > installs) return undefined;
      const after = line.run[installs] as Step;
      return {
        severity: 'attention',
        title: 'The clean-up comes too early',
        reason: 'what is installed after it leaves its own temporary files in every host',
        evidence: `step ${line.number(after)} installs after the clean-up in step ${line.number(cleanUp)}`,
        fix: { action: 'change', label: 'Move the clean-up to the end', steps: line.appended([cleanUp]) },
      };
    },
  },
  {
    id: 'shortcut after its application',
    find: (line) => {
      for (const shortcut of line.of('shortcut')) {
        const owner = line.run.find(
          (step) => isApplication(step) && shortcut.target.toLowerCase().includes(step.name.toLowerCase()),
        );
        if (!owner || line.run.indexOf(shortcut) > line.run.indexOf(owner)) continue;
        const after = line.run[line.run.indexOf(owner) + 1];
        return {
          severity: 'attention',
          title: `The shortcut ${shortcut.name} comes before its application`,
          reason: 'it would point at nothing, and the installer may put its own beside it',
          evidence: `step ${line.number(shortcut)} comes before step ${line.number(owner)}`,
          fix: {
            action: 'change',
            label: `Move step ${line.number(shortcut)} down`,
            steps: line.placed([shortcut], after),
          },
        };
      }
      return undefined;
    },
  },
  {
    id: 'always run late',
    find: (line) => {
      const at = line.run.findIndex((step) => step.alwaysRun);
      const below = line.run.length - at - 1;
      if (at < 0 || below < 3) return undefined;
      const step = line.run[at] as Step;
      return {
        severity: 'attention',
        title: `Step ${line.number(step)} always runs, and so do the ${below} below it`,
        reason: 'nothing below such a step comes from a checkpoint: every build pays for it',
        evidence: `${below} of ${line.run.length} steps stand below it`,
        fix: {
          action: 'change',
          label: 'Move it to the end',
          steps: line.appended([step]),
        },
      };
    },
  },
];
