/** An option sheet: faults by its rules as it is filled, what it becomes, and how it differs from another. */
import { cleanup, fireEvent, screen, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { KeptSuite } from '@vatline/contract/option-sheet';
import { SheetBench } from '../../src/option-sheets/sheet-bench.tsx';
import { choose, EIGHT, refusal, shown, type Answers } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const sheet = (name: string, values: KeptSuite['sheets'][number]['values'], revision = 1) => ({
  name,
  values,
  changedAt: EIGHT,
  revision,
  faults: [],
});
const kept: KeptSuite = {
  id: 's1',
  revision: 1,
  suite: {
    name: 'Ostrand Office',
    publisher: 'Ostrand',
    version: '6',
    options: [
      { id: 'channel', label: 'Channel', kind: 'choice', choices: ['slow', 'fast'], default: 'slow' },
      { id: 'updates', label: 'Updates by itself', kind: 'yes or no', default: false },
      {
        id: 'parts',
        label: 'Parts',
        kind: 'many',
        choices: ['writer', 'tables', 'mail'],
        default: ['writer'],
      },
      {
        id: 'server',
        label: 'Server',
        kind: 'text',
        pattern: '[a-z.]+',
        default: 'office.wrenfield.example',
      },
    ],
    rules: [
      {
        when: { option: 'channel', is: 'fast' },
        then: { option: 'updates', must: 'be', value: true },
        why: 'The fast channel is gone within a month',
      },
    ],
    templates: [
      { name: 'setup.xml', form: 'xml', text: '<setup channel="{{channel}}" server="{{server}}"/>' },
    ],
  },
  sheets: [
    sheet(
      'Staff',
      { channel: 'slow', updates: false, parts: ['writer'], server: 'office.wrenfield.example' },
      3,
    ),
    sheet('Kiosk', {
      channel: 'slow',
      updates: true,
      parts: ['writer', 'mail'],
      server: 'kiosk.wrenfield.example',
    }),
  ],
};

const show = (name: string | undefined, more: Answers = {}) =>
  shown(
    <SheetBench kept={kept} sheet={kept.sheets.find((one) => one.name === name)}>
      <span />
    </SheetBench>,
    {
      'PUT /option-suites/s1/sheets/Staff': { revision: 4 },
      'PUT /option-suites/s1/sheets/Branch': { revision: 1 },
      'DELETE /option-suites/s1/sheets/Staff': { done: true },
      ...more,
    },
  );
const heading = () => screen.getByRole('heading', { level: 1 }).textContent;
const changes = (sent: readonly { call: string; body: unknown }[]) =>
  sent.filter((one) => !one.call.startsWith('GET')).map((one) => [one.call, one.body]);
const server = () => screen.getByLabelText<HTMLInputElement>('Server');

describe('a sheet that is kept', () => {
  it('offers nothing to keep until something differs from it, and drops that again', async () => {
    const { user } = show('Staff');
    expect(heading()).toBe('Staff: Ostrand Office as it will be installed.');
    expect(screen.queryByText('Keep Staff')).toBeNull();
    fireEvent.change(server(), { target: { value: 'other.wrenfield.example' } });
    expect(screen.getByText('Keep Staff')).toBeTruthy();
    await user.click(screen.getByText('Drop the changes'));
    expect(server().value).toBe('office.wrenfield.example');
    expect(screen.queryByText('Keep Staff')).toBeNull();
  });

  it('is kept on the revision that it was opened at', async () => {
    const { sent, user } = show('Staff');
    await user.click(screen.getByRole('switch', { name: 'Updates by itself' }));
    await user.click(screen.getByText('Keep Staff'));
    await vi.waitFor(() =>
      expect(changes(sent)).toEqual([
        [
          'PUT /option-suites/s1/sheets/Staff',
          { values: { ...kept.sheets[0]?.values, updates: true }, basedOn: 3 },
        ],
      ]),
    );
  });

  it('cannot be kept while a rule of the suite is broken; the fault stands at its option with its reason', async () => {
    const view = show('Staff');
    await choose(view, 'Channel', 'fast');
    expect(heading()).toBe('Staff has 1 fault.');
    const updates = screen.getByText('Updates by itself', { selector: '.field-label' }).closest('.field');
    expect(updates?.querySelector('[role=alert]')?.textContent).toContain(
      'The fast channel is gone within a month',
    );
    const keep = screen.getByText('Keep Staff').closest('button') as HTMLButtonElement;
    expect(keep.disabled).toBe(true);
    await view.user.click(screen.getByRole('switch', { name: 'Updates by itself' }));
    expect(keep.disabled).toBe(false);
  });

  it('cannot be kept while a text is not of its pattern', () => {
    show('Staff');
    fireEvent.change(server(), { target: { value: 'Two Words' } });
    expect(heading()).toBe('Staff has 1 fault.');
    expect((screen.getByText('Keep Staff').closest('button') as HTMLButtonElement).disabled).toBe(true);
  });

  it('that somebody else kept meanwhile is not overwritten', async () => {
    const { user } = show('Staff', {
      'PUT /option-suites/s1/sheets/Staff': refusal(
        { basedOn: 'Revision 4 of Staff was kept meanwhile; this change is based on 3' },
        409,
      ),
    });
    await user.click(screen.getByRole('switch', { name: 'Updates by itself' }));
    await user.click(screen.getByText('Keep Staff'));
    expect(await screen.findByText(/was kept meanwhile/)).toBeTruthy();
    expect(screen.getByText('Fetching what was kept.')).toBeTruthy();
  });

  it('stays open with the reason when it cannot be deleted', async () => {
    const { user } = show('Staff', {
      'DELETE /option-suites/s1/sheets/Staff': refusal(
        { '': 'A recipe of Staff multi-session uses it' },
        409,
      ),
    });
    await user.click(screen.getByText('delete this sheet'));
    expect((await screen.findByRole('alert')).textContent).toBe('A recipe of Staff multi-session uses it');
  });

  it('can be deleted', async () => {
    const { sent, user } = show('Staff');
    await user.click(screen.getByText('delete this sheet'));
    await vi.waitFor(() =>
      expect(changes(sent)).toEqual([['DELETE /option-suites/s1/sheets/Staff', undefined]]),
    );
  });
});

describe('a new sheet', () => {
  it('begins with what the suite says, and needs a name', async () => {
    const { sent, user } = show(undefined);
    expect(heading()).toBe('How should Ostrand Office be installed?');
    const keep = screen.getByText('Keep the sheet').closest('button') as HTMLButtonElement;
    expect(keep.disabled).toBe(true);
    fireEvent.change(screen.getByLabelText(/Name of the sheet/), { target: { value: 'Branch' } });
    await user.click(screen.getByText('Keep Branch'));
    await vi.waitFor(() =>
      expect(changes(sent)).toEqual([
        [
          'PUT /option-suites/s1/sheets/Branch',
          {
            values: {
              channel: 'slow',
              updates: false,
              parts: ['writer'],
              server: 'office.wrenfield.example',
            },
            basedOn: 0,
          },
        ],
      ]),
    );
  });
});

describe('what it becomes', () => {
  const preview = () =>
    within(screen.getByRole('region', { name: 'setup.xml' })).getByText(/setup/, { selector: 'pre' });

  it('is the template with what is chosen, as it is chosen', () => {
    show('Staff');
    expect(preview().textContent).toBe('<setup channel="slow" server="office.wrenfield.example"/>');
    fireEvent.change(server(), { target: { value: 'a.b' } });
    expect(preview().textContent).toBe('<setup channel="slow" server="a.b"/>');
  });

  it('differs from another sheet by name of the option, with what is more and less', async () => {
    const { user } = show('Staff');
    const difference = screen.getByRole('region', { name: 'Difference between sheets' });
    expect(difference.textContent).toContain('3 options of 4 differ.');
    expect([...difference.querySelectorAll('.trial')].map((one) => one.textContent)).toEqual([
      'Updates by itselfyes, here no',
      'Parts− mail',
      'Serverkiosk.wrenfield.example, here office.wrenfield.example',
    ]);
    await user.click(screen.getByRole('switch', { name: 'Updates by itself' }));
    expect(difference.textContent).toContain('2 options of 4 differ.');
  });
});
