/** The fields of a plan: which packages go together, on which nights, and not on closed days. */
import { cleanup, fireEvent, screen } from '@testing-library/react';
import { useState } from 'react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Calendar } from '@vatline/contract/calendar';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { RolloutRequest } from '@vatline/contract/rollout';
import { useAllPackages } from '../../src/parts/all-packages.ts';
import { PlanFields } from '../../src/rollouts/plan-fields.tsx';
import { EIGHT, refusal, shown, type Answers } from './shown.tsx';
import { usualRequest } from './usual-plan.ts';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const first: RolloutRequest = { ...usualRequest, packageVersionIds: ['z139'] };
const pool = { id: 'p1', name: 'desk-staff', lineId: 'l1' } as PoolDetail;
const version = (id: string, name: string, number: string, state = 'live') => ({
  id,
  name,
  version: number,
  state,
});
const packages = [
  {
    id: 'zinnet',
    name: 'Zinnet Browser',
    sideBySide: false,
    versions: [version('z141', 'Zinnet Browser', '141'), version('z139', 'Zinnet Browser', '139')],
  },
  {
    id: 'pellam',
    name: 'Pellam Reader',
    sideBySide: true,
    versions: [
      version('p9', 'Pellam Reader', '9.0'),
      version('p8', 'Pellam Reader', '8.0'),
      version('p7', 'Pellam Reader', '7.0', 'held'),
    ],
  },
];
const calendar = (id: string, name: string, nextDates: string[]): Calendar => ({
  id,
  name,
  revision: 1,
  keptAt: EIGHT,
  nextDates,
  nextSpans: [],
  usedBy: [],
});
const answers = (more: Answers = {}): Answers => ({
  'GET /lines': [],
  'GET /packages': { rows: packages, total: 2, next: null },
  'GET /calendars': [calendar('c1', 'Libraries closed', ['2027-03-26', '2027-03-29'])],
  'POST /packages/blend-clashes': [],
  ...more,
});

function show(more: Answers = {}, faults: Record<string, string> = {}, begin: Partial<RolloutRequest> = {}) {
  const asked: RolloutRequest[] = [];
  function Plan() {
    const [request, setRequest] = useState<RolloutRequest>({ ...first, ...begin });
    const change = (next: RolloutRequest) => {
      asked.push(next);
      setRequest(next);
    };
    return (
      <PlanFields
        pool={pool}
        attachesAt={null}
        request={request}
        onChange={change}
        fault={(path) => faults[path]}
      />
    );
  }
  return { ...shown(<Plan />, answers(more)), asked };
}

async function pick(label: string, option: string) {
  fireEvent.mouseDown(await screen.findByRole('combobox', { name: label }));
  fireEvent.click((await screen.findAllByText(option)).at(-1) as HTMLElement);
}

describe('packages of a plan', () => {
  it('another version takes the place of the one that was chosen', async () => {
    const { asked } = show();
    await pick('Packages attached', 'Zinnet Browser 141');
    expect(asked.at(-1)?.packageVersionIds).toEqual(['z141']);
  });

  it('versions that run side by side stay together', async () => {
    const { asked } = show({}, {}, { packageVersionIds: ['p8'] });
    await pick('Packages attached', 'Pellam Reader 9.0');
    expect(asked.at(-1)?.packageVersionIds).toEqual(['p8', 'p9']);
  });

  it('one that is held can only be kept, not chosen', async () => {
    show();
    fireEvent.mouseDown(await screen.findByRole('combobox', { name: 'Packages attached' }));
    await screen.findByText('Pellam Reader 9.0');
    expect(screen.queryByText('Pellam Reader 7.0')).toBeNull();
    cleanup();
    show({}, {}, { packageVersionIds: ['p7'] });
    fireEvent.mouseDown(await screen.findByRole('combobox', { name: 'Packages attached' }));
    expect((await screen.findAllByText('Pellam Reader 7.0')).length).toBeGreaterThan(0);
  });
});

describe('when', () => {
  it('keeps to the calendar that is chosen, and says what that closes next', async () => {
    const { asked } = show();
    await pick('Closed days', 'Libraries closed');
    expect(asked.at(-1)?.calendarIds).toEqual(['c1']);
    expect(await screen.findByText('no window begins on 26 Mar, 29 Mar')).toBeTruthy();
  });

  it('takes an iCalendar file under its own name, and keeps to it at once', async () => {
    const { asked, sent, user } = show({ 'POST /calendars': { id: 'c2' } });
    const file = new File(['BEGIN:VCALENDAR'], 'County holidays.ics', { type: 'text/calendar' });
    await user.upload(screen.getByLabelText('Add an iCalendar file'), file);
    await vi.waitFor(() => expect(asked.at(-1)?.calendarIds).toEqual(['c2']));
    expect(sent.find((one) => one.call === 'POST /calendars')?.body).toEqual({
      name: 'County holidays',
      text: 'BEGIN:VCALENDAR',
    });
  });

  it('says at the field why a file is none, and keeps the plan as it was', async () => {
    const { asked, user } = show({ 'POST /calendars': refusal({ text: 'is not an iCalendar file' }) });
    await user.upload(screen.getByLabelText('Add an iCalendar file'), new File(['x'], 'notes.ics'));
    expect((await screen.findByText('is not an iCalendar file')).getAttribute('role')).toBe('alert');
    expect(asked).toEqual([]);
  });

  it('does not even read a file that is too large for one', async () => {
    const { sent, user } = show();
    const large = new File([new Uint8Array(1_000_001)], 'film.ics');
    await user.upload(screen.getByLabelText('Add an iCalendar file'), large);
    expect(await screen.findByText('film.ics is larger than 1.0 MB and was not read')).toBeTruthy();
    expect(sent.some((one) => one.call === 'POST /calendars')).toBe(false);
  });

  it.each([
    ['window.rule', 'Nights, Europe/Dublin'],
    ['window.start', 'From'],
    ['window.end', 'Until'],
    ['calendarIds.0', 'Closed days'],
    ['batch', 'Hosts at a time'],
    ['maxUnavailable', 'At most out of service'],
    ['drainLimitMinutes', 'Wait for sessions, min'],
    ['reserve', 'Seats kept above, %'],
    ['imageVersionId', 'Image version'],
    ['packageVersionIds.0', 'Packages attached'],
  ])('a fault at %s stands at the field “%s”', (path, label) => {
    show({}, { [path]: 'is wrong' }, { calendarIds: ['c1'] });
    const alert = screen.getByRole('alert');
    expect(alert.closest('.field')?.querySelector('.field-label')?.textContent).toBe(label);
  });
});

describe('seats', () => {
  it('are kept as a part of the expected sessions, or not at all', async () => {
    const { asked, user } = show();
    await user.click(screen.getByRole('switch', { name: 'Keep seats' }));
    expect(asked.at(-1)?.reserve).toBeNull();
    await user.click(screen.getByRole('switch', { name: 'Keep seats' }));
    expect(asked.at(-1)?.reserve).toBe(0.1);
  });
});

describe('a library of several pages', () => {
  it('is read to its end, page after page, each once', async () => {
    const asked: (string | null)[] = [];
    function Names() {
      return (
        <p>
          {useAllPackages()
            ?.map((row) => row.name)
            .join(', ')}
        </p>
      );
    }
    const page = (name: string, next: string | null) => ({
      rows: [{ id: name, name, versions: [] }],
      total: 3,
      next,
    });
    const pages = [page('Brackenote', 'b'), page('Cartolune', 'c'), page('Zinnet', null)];
    shown(<Names />, {
      'GET /packages': () => {
        asked.push(pages[asked.length]?.next ?? null);
        return pages[asked.length - 1];
      },
    });
    expect(await screen.findByText('Brackenote, Cartolune, Zinnet')).toBeTruthy();
    expect(asked).toEqual(['b', 'c', null]);
  });
});
