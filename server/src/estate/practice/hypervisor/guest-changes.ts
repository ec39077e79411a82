/** What the smaller steps of a recipe leave on a practice machine, entry by entry. */
import { entryKey, type Entry } from '@vatline/core/inventory/entry';
import type { Step } from '@vatline/core/image/recipe';
import { contentDigest } from './content.ts';

export type GuestChange =
  | { readonly put: Entry }
  | { readonly drop: { readonly kind: Entry['kind']; readonly name: string } }
  | { readonly start: { readonly service: string; readonly start: string } };

/** Nothing on these machines carries the date of a build: the same recipe gives the same inventory. */
const PLATFORM_DATE = '2027-01-01T00:00:00Z';

/** Bytes of a file that a step or a person copies onto a machine. */
const COPIED_BYTES = 64_000;

/** A file whose bytes follow from a text, unless its digest is known. */
export function fileEntry(
  path: string,
  size: number,
  content: string,
  sha256 = contentDigest(content, size),
): Entry {
  return { kind: 'file', path, size, sha256, mode: '0644', modified: PLATFORM_DATE };
}

/** The entries a step puts, drops or sets; nothing for steps that change a machine in other ways. */
export function changesOfStep(step: Step): readonly GuestChange[] {
  switch (step.kind) {
    case 'guest tools':
      return [
        {
          put: {
            kind: 'application',
            publisher: 'Hypervisor',
            name: 'Guest tools',
            version: step.version,
            size: 0,
          },
        },
        ...agent('GuestTools', 'Program files/Guest tools/tools.exe', 220_000, `tools ${step.version}`),
        ...step.drivers.map((name): GuestChange => ({
          put: { kind: 'driver', name, version: step.version },
        })),
      ];
    case 'language pack':
      return [{ put: fileEntry(`System/Languages/${step.language}.pack`, 3_100_000, step.language) }];
    case 'file copy':
      // Working the digest out makes the bytes known where the step names them rightly.
      contentDigest(step.source, COPIED_BYTES);
      return [{ put: fileEntry(step.target, COPIED_BYTES, step.source, step.digest) }];
    case 'shortcut': {
      const folder = step.place === 'desktop' ? 'Users/All/Desktop' : 'Users/All/Start menu';
      return [{ put: { kind: 'shortcut', path: `${folder}/${step.name}`, target: step.target } }];
    }
    case 'registry setting':
      return [
        { put: { kind: 'registry', key: step.key, name: step.name, type: step.type, value: step.value } },
      ];
    case 'service start':
      return [{ start: { service: step.name, start: step.start } }];
    case 'scheduled task':
      return step.action === 'remove'
        ? [{ drop: { kind: 'task', name: step.name } }]
        : [{ put: { kind: 'task', name: step.name, run: step.command, schedule: step.schedule } }];
    case 'certificate':
      return [
        { put: { kind: 'certificate', store: step.store, subject: step.subject, sha256: step.digest } },
      ];
    case 'profile agent':
      return [
        ...agent(
          'ProfileAgent',
          'Program files/Profile agent/agent.exe',
          110_000,
          `profile agent ${step.version}`,
        ),
        { put: setting('Machine\\Software\\Profile agent', 'Share', step.share) },
      ];
    case 'settings baseline':
      return [{ put: setting('Machine\\Software\\Baseline', step.baseline, String(step.revision)) }];
    default:
      return [];
  }
}

/** A program that runs from the start of the machine. */
function agent(name: string, image: string, size: number, content: string): GuestChange[] {
  return [
    { put: { kind: 'service', name, start: 'automatic', image } },
    { put: fileEntry(image, size, content) },
  ];
}

function setting(key: string, name: string, value: string): Entry {
  return { kind: 'registry', key, name, type: 'REG_SZ', value };
}

/** An inventory with changes applied in their order; the last word on an entry holds. */
export function applyChanges(entries: readonly Entry[], changes: readonly GuestChange[]): Entry[] {
  const keyOf = (kind: string, key: string) => `${kind}\0${key}`.toLowerCase();
  const byKey = new Map(entries.map((entry) => [keyOf(entry.kind, entryKey(entry)), entry]));
  for (const change of changes) {
    if ('put' in change) byKey.set(keyOf(change.put.kind, entryKey(change.put)), change.put);
    else if ('drop' in change) byKey.delete(keyOf(change.drop.kind, change.drop.name));
    else {
      const key = keyOf('service', change.start.service);
      const service = byKey.get(key);
      if (service?.kind === 'service') byKey.set(key, { ...service, start: change.start.start });
    }
  }
  return [...byKey.values()];
}
