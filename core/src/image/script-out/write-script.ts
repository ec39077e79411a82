/**
 * A recipe as a commented script for a machine that no driver reaches. It keeps count of what is done
 * in a file beside it, so that it goes on after a restart, and ends by telling how to bring the
 * machine's inventory back.
 */
import { describeStep } from '../describe-step.ts';
import { enabledSteps, type Step } from '../recipe.ts';
import { describeSuccessCheck } from '../success-check.ts';
import { byHand, isByHand } from './by-hand.ts';
import type { Dialect, Rendered } from './dialect.ts';
import { powershell } from './powershell.ts';
import { shell } from './shell.ts';

export const scriptDialects = ['powershell', 'shell'] as const;
export type ScriptDialect = (typeof scriptDialects)[number];

export interface ScriptOut {
  readonly fileName: string;
  readonly text: string;
  /** Numbers and titles of steps that the script asks a person to do. */
  readonly byHand: readonly { readonly number: number; readonly title: string; readonly why: string }[];
}

const dialects: Record<ScriptDialect, Dialect> = { powershell, shell };

/** Writes the steps that builds run; `title` names the line and revision. */
export function writeScript(title: string, steps: readonly Step[], dialect: ScriptDialect): ScriptOut {
  const language = dialects[dialect];
  const forHands: ScriptOut['byHand'][number][] = [];
  const run = enabledSteps(steps);
  const body = run.flatMap((step, i) => {
    const number = i + 1;
    const described = describeStep(step);
    const rendered = renderedBy(language, step);
    const comments = [
      `${number}. ${described.title}: ${described.detail}`,
      ...(step.section && step.section !== run[i - 1]?.section ? [`Section: ${step.section}`] : []),
      ...(step.note ? step.note.split('\n') : []),
      ...(step.success ? [`Afterwards: ${describeSuccessCheck(step.success)}`] : []),
    ];
    if ('byHand' in rendered) forHands.push({ number, title: described.title, why: rendered.byHand });
    const commands =
      'byHand' in rendered
        ? [language.askForHands(rendered.byHand)]
        : [...rendered.commands, ...language.successCheck(step)];
    const restartAfter = step.kind === 'restart' || step.restart !== undefined;
    return [
      ...comments.map(comment),
      ...language.frame({
        number,
        title: described.title,
        commands,
        restartAfter,
        retries: step.retries ?? 0,
      }),
      '',
    ];
  });
  const lines = [
    ...language.preamble.map((line) => line.replace('TITLE', () => oneLine(title))),
    '',
    ...body,
    ...language.ending,
  ];
  return { fileName: language.fileName, text: `${lines.join('\n')}\n`, byHand: forHands };
}

function renderedBy(language: Dialect, step: Step): Rendered {
  if (step.kind === 'fragment')
    throw new Error(`the fragment ${step.fragment} stands in a script; expand the recipe first`);
  return isByHand(step) ? { byHand: byHand(step) } : language.render(step);
}

function comment(text: string): string {
  return `# ${oneLine(text)}`;
}

/** A comment ends with its line; what follows a line break would be run. */
function oneLine(text: string): string {
  return text.replace(/[\r\n\u0085\u2028\u2029]+/g, ' ');
}
