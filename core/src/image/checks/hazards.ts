/** Checks for what will go wrong one day. */
import { sheetTrouble } from '../../option-sheet/filled-sheet.ts';
import { findSecrets } from '../secrets.ts';
import type { Step } from '../recipe.ts';
import { isSilent, withSilentSwitch } from '../silent-command.ts';
import type { Check, CheckedLine } from './check.ts';

/** A text of a step that somebody wrote and that is run. */
function writtenText(step: Step): string {
  if (step.kind === 'script') return step.text;
  return 'command' in step ? step.command : '';
}

/** Numbers of steps, as evidence. */
const atSteps = (line: CheckedLine, steps: readonly Step[]) =>
  `step ${steps.map((step) => line.number(step)).join(', ')}`;

export const hazardChecks: readonly Check[] = [
  {
    id: 'secrets',
    find: (line) => {
      const found = line.run.flatMap((step) =>
        findSecrets(writtenText(step)).map(
          (secret) => `${secret.what} in step ${line.number(step)}, line ${secret.line}`,
        ),
      );
      return found.length === 0
        ? undefined
        : {
            severity: 'stops the cut',
            title:
              found.length === 1
                ? 'A secret stands in the recipe'
                : `${found.length} secrets stand in the recipe`,
            reason: 'everybody who reads the recipe, a host or a backup of either has it; logs strike it out',
            evidence: found.join('; '),
          };
    },
  },
  {
    id: 'generalised by script',
    find: (line) => {
      const steps = line.of('script').filter((step) => /generali[sz]e/i.test(step.text));
      return steps.length === 0
        ? undefined
        : {
            severity: 'stops the cut',
            title: 'A script generalises the build machine',
            reason:
              'a cut generalises a copy; the build machine itself would leave the directory and could not go on',
            evidence: atSteps(line, steps),
            fix: {
              action: 'change',
              label: 'Take the script out',
              steps: line.without(steps.map((s) => s.id)),
            },
          };
    },
  },
  {
    id: 'media',
    find: (line) => {
      const { media } = line.given.sources;
      const step = line.of('operating system')[0];
      if (!step || media.length === 0 || media.some((known) => known.digest === step.mediaDigest))
        return undefined;
      const same = media.find((known) => known.system === step.system);
      return {
        severity: 'attention',
        title: 'The estate does not have this media',
        reason: 'a build would take whatever file has that name, or stop at the first step',
        evidence: `no media has the digest ${step.mediaDigest.slice(0, 12) || 'that is empty'}`,
        ...(same
          ? {
              fix: {
                action: 'change' as const,
                label: `Take the media of ${same.system}`,
                steps: line.changed((other) =>
                  other.id === step.id ? { ...step, mediaDigest: same.digest } : other,
                ),
              },
            }
          : {}),
      };
    },
  },
  {
    id: 'option sheet',
    find: (line) => {
      for (const step of line.of('application by option sheet')) {
        const trouble = sheetTrouble(step, line.given.optionSheets);
        if (!trouble) continue;
        const { what, now } = trouble;
        return {
          severity: 'stops the cut',
          title: `Step ${line.number(step)}: ${what}`,
          reason: 'a build installs by exactly the sheet that its recipe took, and stops where it is another',
          evidence: now?.digest
            ? `it renders to ${now.digest.slice(0, 12)} now, the recipe has ${step.digest.slice(0, 12) || 'none'}`
            : `${line.given.optionSheets.filter((one) => one.suite === step.name).length} sheets of ${step.name || 'this suite'} are filled`,
          ...(now?.digest
            ? {
                fix: {
                  action: 'change' as const,
                  label: 'Take the sheet as it is now',
                  steps: line.changed((other) =>
                    other.id === step.id
                      ? { ...step, version: now.version, digest: now.digest ?? '' }
                      : other,
                  ),
                },
              }
            : {}),
        };
      }
      return undefined;
    },
  },
  {
    id: 'silent',
    find: (line) => {
      const loud = line.of('application').filter((step) => !isSilent(step.command));
      const ids = new Set(loud.map((step) => step.id));
      return loud.length === 0
        ? undefined
        : {
            severity: 'attention',
            title:
              loud.length === 1
                ? 'An installer may wait for a click'
                : `${loud.length} installers may wait for a click`,
            reason: 'nobody is there to click at night; the build would stand until its time is up',
            evidence: `no silent switch in ${atSteps(line, loud)}`,
            fix: {
              action: 'change',
              label: 'Add /quiet',
              steps: line.changed((step) =>
                step.kind === 'application' && ids.has(step.id)
                  ? { ...step, command: withSilentSwitch(step.command) }
                  : step,
              ),
            },
          };
    },
  },
  {
    id: 'for one user only',
    find: (line) => {
      const steps = line.run.filter(
        (step) =>
          (step.kind === 'registry setting' && /^(user|hkcu|hkey_current_user)\\/i.test(step.key)) ||
          (step.kind === 'file copy' &&
            /^(?:[a-z]:)?[\\/]?users[\\/](?!all[\\/]|default[\\/]|public[\\/])/i.test(step.target)),
      );
      return steps.length === 0
        ? undefined
        : {
            severity: 'attention',
            title: 'Something is set for one user only',
            reason: 'only the account that builds would have it; nobody on a host does',
            evidence: atSteps(line, steps),
          };
    },
  },
  {
    id: 'version not named',
    find: (line) => {
      const steps = line.run.filter(
        (step) => 'version' in step && /^(latest|newest|current|any|\*)$/i.test(step.version),
      );
      return steps.length === 0
        ? undefined
        : {
            severity: 'attention',
            title: 'A version is left open',
            reason: 'the same recipe would give another image next month, and no comparison could say why',
            evidence: atSteps(line, steps),
          };
    },
  },
  {
    id: 'exit codes',
    find: (line) => {
      const steps = line.run.filter(
        (step) =>
          step.kind === 'application' &&
          step.exitCodes.some((code) => code !== 0 && code !== 3010 && code !== 1641),
      );
      return steps.length === 0
        ? undefined
        : {
            severity: 'attention',
            title: 'An exit code that usually means failure counts as success',
            reason: 'an installation that failed would be taken for done',
            evidence: steps
              .map(
                (step) =>
                  `step ${line.number(step)} takes ${step.kind === 'application' ? step.exitCodes.join(', ') : ''}`,
              )
              .join('; '),
            fix: {
              action: 'change',
              label: 'Take 0 and 3010 only',
              steps: line.changed((step) =>
                step.kind === 'application' && steps.includes(step)
                  ? { ...step, exitCodes: [0, 3010] }
                  : step,
              ),
            },
          };
    },
  },
];
