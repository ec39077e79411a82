/** Steps in words, and how long they usually take. */
import { unreachable } from '../result.ts';
import { maskSecrets } from './secrets.ts';
import type { Step, StepKind } from './recipe.ts';

/** Minutes a step is taken to last before there is any history of it. */
export const usualMinutes: Record<StepKind, number> = {
  'operating system': 18,
  updates: 14,
  'guest tools': 2,
  'language pack': 5,
  application: 4,
  'packaged application': 2,
  'application by option sheet': 8,
  'file copy': 1,
  shortcut: 1,
  'registry setting': 1,
  'service start': 1,
  'scheduled task': 1,
  certificate: 1,
  script: 1,
  'join directory': 1,
  'host agent': 1,
  'profile agent': 1,
  'settings baseline': 2,
  restart: 3,
  'wait for settle': 4,
  'clean-up': 3,
  // Its steps have their own.
  fragment: 0,
};

/** A step in a few words: what it is, and what exactly. */
export function describeStep(step: Step): { title: string; detail: string } {
  const { title, detail } = describeKind(step);
  return { title: step.label ?? title, detail };
}

function describeKind(step: Step): { title: string; detail: string } {
  switch (step.kind) {
    case 'operating system':
      return {
        title: 'Operating system',
        detail: [step.system, step.edition, step.language].filter(Boolean).join(' '),
      };
    case 'updates':
      return {
        title: 'Updates',
        detail: `${step.categories?.join(', ') ?? 'everything'} up to release ${step.release}${step.feed ? ` of ${step.feed}` : ''}`,
      };
    case 'guest tools':
      return {
        title: 'Guest tools',
        detail: `${step.version}${step.drivers.length > 0 ? `, drivers ${step.drivers.join(', ')}` : ''}`,
      };
    case 'language pack':
      return { title: 'Language pack', detail: step.language };
    case 'application':
      return { title: nameOf(step), detail: `silent, exit ${step.exitCodes.join(' or ')}` };
    case 'packaged application':
      return { title: nameOf(step), detail: `from its container ${step.digest.slice(0, 12)}` };
    case 'application by option sheet':
      return { title: nameOf(step), detail: `by the sheet ${step.sheet}` };
    case 'file copy':
      return { title: 'File', detail: step.target };
    case 'shortcut':
      return { title: `Shortcut ${step.name}`, detail: `on the ${step.place}, to ${step.target}` };
    case 'registry setting':
      return { title: 'Registry setting', detail: `${step.key}\\${step.name} = ${step.value}` };
    case 'service start':
      return { title: `Service ${step.name}`, detail: `starts ${step.start}` };
    case 'scheduled task':
      return {
        title: `Scheduled task ${step.name}`,
        detail: step.action === 'remove' ? 'taken away' : `${maskSecrets(step.command)}, ${step.schedule}`,
      };
    case 'certificate':
      return { title: 'Certificate', detail: `${step.subject} into ${step.store}` };
    case 'script':
      return { title: step.title || 'Script', detail: maskSecrets(step.text.split('\n')[0] ?? '') };
    case 'join directory':
      return { title: 'Join directory', detail: step.ou };
    case 'host agent':
      return { title: 'Host agent', detail: `version ${step.version}, silent until cut` };
    case 'profile agent':
      return { title: 'Profile agent', detail: `version ${step.version}, profiles on ${step.share}` };
    case 'settings baseline':
      return { title: `Baseline ${step.baseline}`, detail: `revision ${step.revision}` };
    case 'restart':
      return { title: 'Restart', detail: 'and wait until settled' };
    case 'wait for settle':
      return { title: 'Wait for settle', detail: `at most ${step.limitMinutes} min` };
    case 'clean-up':
      return { title: 'Clean-up', detail: step.targets.join(', ') };
    case 'fragment':
      return { title: `Fragment ${step.fragment}`, detail: `revision ${step.revision}` };
    default:
      return unreachable(step);
  }
}

const nameOf = (step: { name: string; version: string }) => `${step.name} ${step.version}`.trim();
