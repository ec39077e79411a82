/** A person at the screen of a practice machine: what they do, and the traces that any use leaves. */
import type { HandChange } from '../../control.ts';
import { runGuestStep, withApplication, type Guest, type Traits } from './guest.ts';
import { fileEntry, type GuestChange } from './guest-changes.ts';

/** The machine after the change; an error when it cannot be made. */
export function changeByHand(
  guest: Guest,
  change: HandChange,
  traits: ReadonlyMap<string, Traits>,
): { readonly guest: Guest; readonly error?: string } {
  const done = applied(guest, change, traits);
  return {
    ...done,
    guest: { ...done.guest, changes: [...(done.guest.changes ?? []), ...tracesOfUse(guest)] },
  };
}

function applied(guest: Guest, change: HandChange, traits: ReadonlyMap<string, Traits>) {
  if (change.kind === 'uninstall') {
    const others = guest.applications.filter((app) => app.name !== change.name);
    if (others.length === guest.applications.length)
      return { guest, error: `${change.name} is not installed on the machine` };
    return { guest: { ...guest, applications: others } };
  }
  const { step } = change;
  // Whoever sits there clicks through an installer, so it need not be silent.
  if (step.kind === 'application') {
    const restartPending = guest.restartPending || traits.get(step.name)?.needsRestart === true;
    return { guest: { ...withApplication(guest, step), restartPending } };
  }
  return runGuestStep(guest, step, traits);
}

/** Logs, temporary files and volatile registry values: different each time, and nothing to keep. */
function tracesOfUse(guest: Guest): GuestChange[] {
  const number = guest.changes?.length ?? 0;
  return [
    { put: fileEntry(`Users/Builder/Temp/session-${number}.tmp`, 2_000, `temporary ${number}`) },
    { put: fileEntry('System/Logs/setup.log', 900 + number, `log ${number}`) },
  ];
}
