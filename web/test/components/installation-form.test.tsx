/** An application that agents install: every field has its place, and so has each fault that the rules find. */
import { cleanup, fireEvent, screen, within } from '@testing-library/react';
import { useState } from 'react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { InstallationInput } from '@vatline/contract/installation';
import { installationFaults, newInstallation, type Installation } from '@vatline/core/installed/installation';
import { InstallationForm } from '../../src/installed/installation-form.tsx';
import { choose, shown } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const usual = {
  ...newInstallation({ name: 'Pellam Reader', publisher: 'Pellam', version: '9.0' }),
  hosts: 'WCL-DS-*',
} as InstallationInput;

/** Shows the form with what the rules say of what stands in it, as the page does. */
function show(change: Partial<InstallationInput> = {}) {
  let now: InstallationInput = { ...usual, ...change };
  function Kept() {
    const [own, setOwn] = useState(now);
    now = own;
    return (
      <InstallationForm
        installation={own}
        faults={installationFaults(own as Installation)}
        onChange={setOwn}
      />
    );
  }
  return { ...shown(<Kept />, {}), now: () => now };
}
const put = (label: string, text: string) =>
  fireEvent.change(screen.getByLabelText(label), { target: { value: text } });
const faults = () => screen.queryAllByRole('alert').map((one) => one.textContent);
const faultOf = (label: string) =>
  screen.getByText(label, { selector: '.field-label' }).closest('.field')?.querySelector('[role=alert]')
    ?.textContent;

describe('what it is and how it is run', () => {
  it('begins without a fault; what is emptied is said at its field', () => {
    show();
    expect(faults()).toEqual([]);
    put('Name', '');
    put('Install command', '');
    expect(faultOf('Name')).toBe('is empty');
    expect(faultOf('Install command')).toMatch(/empty/);
  });

  it('a command that would wait for a click is refused where it stands', () => {
    const { now } = show();
    put('Install command', '"{folder}\\setup.exe"');
    expect(faultOf('Install command')).toContain('has no silent switch such as /quiet');
    put('Install command', '"{folder}\\setup.exe" /quiet');
    expect([faults(), now().installCommand]).toEqual([[], '"{folder}\\setup.exe" /quiet']);
  });

  it('exit codes have a meaning each; one that is there twice, and none for done, are said', async () => {
    const view = show();
    await view.user.click(screen.getByText('add a code'));
    expect(view.now().exitCodes.at(-1)).toEqual({ code: 1, means: 'done' });
    put('Exit code 4', '3010');
    expect(faults()).toEqual(['3010 is there twice']);
    await view.user.click(screen.getAllByRole('button', { name: 'Remove exit code 3010' })[1] as HTMLElement);
    expect(faults()).toEqual([]);
    await choose(view, 'Meaning of exit code 1', 'try again');
    expect(faultOf('Exit codes')).toBe('names no code for “done”');
  });

  it('limits, restarts and words for people are kept as they are chosen', async () => {
    const view = show();
    put('Time limit, min', '90');
    await choose(view, 'Restarts the host', 'never');
    put('People are told', 'Pellam Reader comes at seven');
    const { timeLimitMinutes, restart, notification } = view.now();
    expect([timeLimitMinutes, restart, notification]).toEqual([90, 'never', 'Pellam Reader comes at seven']);
  });
});

describe('where it applies and how it is known', () => {
  it('disk and memory are gigabytes here and bytes in what is kept', () => {
    const { now } = show();
    put('Free disk, GB', '2.5');
    put('Memory, GB', '8');
    put('System at least', '24.2');
    expect(now().requirements).toMatchObject({ diskBytes: 2.5e9, memoryBytes: 8e9, minimumSystem: '24.2' });
  });

  it('a rule has the fields of its kind, and begins empty when that is another', async () => {
    const view = show();
    const detection = screen.getByRole('group', { name: 'Detection' });
    expect(
      within(detection)
        .getAllByRole('textbox')
        .map((one) => one.getAttribute('aria-label')),
    ).toEqual(['Detection, name 1', 'Detection, atLeast 1']);
    await choose(view, 'Detection, kind 1', 'registry value');
    expect(view.now().detection).toEqual([{ kind: 'registry', key: '', name: '', value: '' }]);
    put('Detection, key 1', 'Machine/Software/Pellam');
    expect(view.now().detection[0]).toMatchObject({ key: 'Machine/Software/Pellam' });
  });

  it('without any rule it would be installed again and again, which is said', async () => {
    const { user } = show();
    await user.click(screen.getByRole('button', { name: 'Remove rule 1 of Detection' }));
    expect(screen.getByText('By nothing.')).toBeTruthy();
    expect(faults()).toEqual([
      'It is empty; then nobody knows whether it is there, and it is installed again and again.',
    ]);
    const detection = screen.getByRole('group', { name: 'Detection' });
    await user.click(within(detection).getByText('add a rule'));
    expect(screen.queryByText('By nothing.')).toBeNull();
  });

  it('rules of requirements are their own', async () => {
    const { user, now } = show();
    const requirements = screen.getByRole('group', { name: 'Requirements' });
    await user.click(within(requirements).getByText('add a rule'));
    put('Requirements, path 1', 'Program files/Quaybolt/run.exe');
    expect(now().requirements.rules).toEqual([{ kind: 'file', path: 'Program files/Quaybolt/run.exe' }]);
    expect(now().detection).toHaveLength(1);
  });
});

describe('before it, and when', () => {
  it('what it needs has a name and a range that can be read', async () => {
    const { user, now } = show();
    await user.click(screen.getByText('add an application that it needs'));
    expect(faults()).toEqual(['It is empty.']);
    put('Needs, name 1', 'Quaybolt Runtime');
    put('Needs, range 1', '>=five');
    expect(faults()).toHaveLength(1);
    put('Needs, range 1', '>=5.0 <6');
    expect([faults(), now().dependencies]).toEqual([[], [{ name: 'Quaybolt Runtime', range: '>=5.0 <6' }]]);
    await user.click(screen.getByText('remove', { selector: '.two-texts button' }));
    expect(now().dependencies).toEqual([]);
  });

  it('a deadline is an hour of the estate, and a text that is none is said and not kept', async () => {
    const summer = Date.UTC(2027, 5, 1, 17);
    const { now } = show({ deadline: summer });
    // Before the estate has said where it is, that would be 17:00.
    const field = await screen.findByLabelText(/^Deadline, Europe\/Dublin/);
    expect((field as HTMLInputElement).value).toBe('2027-06-01 18:00');
    fireEvent.change(field, { target: { value: '2027-03-28 03:30' } });
    // The clocks of Dublin go forward that night: 03:30 there is 02:30 UTC.
    expect(now().deadline).toBe(Date.UTC(2027, 2, 28, 2, 30));
    fireEvent.change(field, { target: { value: 'on Sunday' } });
    expect(faults()).toHaveLength(1);
    expect(now().deadline).toBe(Date.UTC(2027, 2, 28, 2, 30));
    fireEvent.change(field, { target: { value: '' } });
    expect([faults(), now().deadline]).toEqual([[], null]);
  });
});
