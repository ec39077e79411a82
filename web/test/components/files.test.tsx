/** Files that a person chooses: what is too large or has gone is said beside the button, and nothing hangs. */
import { cleanup, fireEvent, screen } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { LineDetail } from '@vatline/contract/image';
import { leanHardware } from '@vatline/core/image/hardware';
import { writeOvf } from '@vatline/core/image/ovf/write-ovf';
import { FromList } from '../../src/bulk/from-list.tsx';
import { BomComparison } from '../../src/images/compare/bom-comparison.tsx';
import HardwareTab from '../../src/images/hardware/hardware-tab.tsx';
import type { LinePlan } from '../../src/images/line-plan.ts';
import { TextFileButton } from '../../src/parts/text-file-button.tsx';
import { shown } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function give(button: string, ...files: File[]): void {
  fireEvent.change(screen.getByLabelText(button), { target: { files } });
}
const fault = async () => (await screen.findByRole('alert')).textContent;

describe('a text file', () => {
  const show = () => {
    const read: string[] = [];
    const button = (
      <TextFileButton accept=".csv" mostBytes={10} onText={(text, name) => read.push(`${name}: ${text}`)}>
        Read
      </TextFileButton>
    );
    shown(button, {});
    return read;
  };

  it('is read up to its bound, which is said beyond it', async () => {
    const read = show();
    give('Read', new File(['0123456789'], 'just.csv'));
    await vi.waitFor(() => expect(read).toEqual(['just.csv: 0123456789']));
    give('Read', new File(['0123456789a'], 'over.csv'));
    expect(await fault()).toBe('over.csv is larger than 10 B and was not read');
    give('Read', new File(['again'], 'again.csv'));
    await vi.waitFor(() => expect(screen.queryByRole('alert')).toBeNull());
    expect(read).toEqual(['just.csv: 0123456789', 'again.csv: again']);
  });

  it('that has gone meanwhile is asked for again', async () => {
    const read = show();
    const gone = new File(['x'], 'gone.csv');
    gone.text = () => Promise.reject(new DOMException('', 'NotFoundError'));
    give('Read', gone);
    expect(await fault()).toBe('gone.csv could not be read; choose it again');
    expect(read).toEqual([]);
  });
});

describe('an OVF file', () => {
  const show = () => {
    const changed: unknown[] = [];
    const plan = {
      steps: [],
      hardware: leanHardware,
      isDraft: false,
      change: (_steps: unknown, hardware: unknown) => changed.push(hardware),
    } as unknown as LinePlan;
    const line = { id: 'l1', name: 'Staff', recipeRevision: 1 } as LineDetail;
    shown(<HardwareTab line={line} plan={plan} />, { 'GET /pools': [] });
    return changed;
  };

  it('gives the machine its hardware', async () => {
    const changed = show();
    give('Read an OVF file', new File([writeOvf('Staff', { ...leanHardware, processors: 6 })], 'big.ovf'));
    expect(await screen.findByText(/^big\.ovf was read\./)).toBeTruthy();
    expect(changed).toEqual([{ ...leanHardware, processors: 6 }]);
  });

  it('that is none says so and changes nothing', async () => {
    const changed = show();
    give('Read an OVF file', new File(['<html/>'], 'page.ovf'));
    expect(await fault()).toMatch(/^page\.ovf was not read:/);
    expect(changed).toEqual([]);
  });
});

describe('a bill of materials', () => {
  const bill = (...versions: string[]) =>
    JSON.stringify({
      bomFormat: 'CycloneDX',
      specVersion: '1.6',
      components: versions.map((version, i) => ({
        type: 'application',
        publisher: 'Pellam',
        name: `Part ${i + 1}`,
        version,
      })),
    });
  const show = () =>
    shown(<BomComparison from="v1" to="v2" />, {
      'GET /versions/v1/bom': JSON.parse(bill('1.0', '2.0')),
      'GET /versions/v2/bom': JSON.parse(bill('1.0', '2.1', '3.0')),
    });
  const said = () => screen.findByText(/^From /, { selector: 'p' }).then((one) => one.textContent);

  it('compares two versions, row by row', async () => {
    const { user } = show();
    vi.stubGlobal('fetch', (address: string) =>
      Promise.resolve(
        new Response(address.endsWith('/v1/bom') ? bill('1.0', '2.0') : bill('1.0', '2.1', '3.0')),
      ),
    );
    await user.click(screen.getByText('Compare the two bills'));
    expect(await said()).toBe(
      'From the version to the version: 1 component added, 1 changed, 0 removed, 1 the same.',
    );
    expect([...document.querySelectorAll('tr')].map((row) => row.textContent)).toEqual([
      '+Part 3 Pellam3.0',
      '~Part 2 Pellam2.02.1',
    ]);
  });

  it('of a file stands in the place of the first, and one that is none is refused by its name', async () => {
    show();
    vi.stubGlobal('fetch', () => Promise.resolve(new Response(bill('1.0'))));
    give('Compare with a file', new File([bill('1.0', '9.9')], 'theirs.json'));
    expect(await said()).toBe(
      'From theirs.json to the version: 0 components added, 0 changed, 1 removed, 1 the same.',
    );
    give('Compare with a file', new File(['{"bomFormat":"other"}'], 'other.json'));
    expect(await fault()).toMatch(/^other\.json: /);
    expect(screen.queryByText(/^From /, { selector: 'p' })).toBeNull();
  });

  it('that the server does not give is said', async () => {
    const { user } = show();
    vi.stubGlobal('fetch', () => Promise.resolve(new Response('', { status: 503 })));
    await user.click(screen.getByText('Compare the two bills'));
    expect(await fault()).toBe('The server gave no bill of materials');
  });
});

describe('a list', () => {
  const list = () => screen.getByLabelText<HTMLTextAreaElement>('List');

  it('takes the place of what stood there, and is checked line by line before anything begins', async () => {
    const begun: unknown[] = [];
    const { user } = shown(<FromList action="draft" isBusy={false} onBegin={(one) => begun.push(one)} />, {});
    expect(screen.getByText('Make 3 rows')).toBeTruthy();
    give('Read a file', new File(['name,version\nPellam Reader\n'], 'a.csv'));
    expect(await fault()).toMatch(/^line 2/);
    expect((screen.getByRole('button', { name: /^Make/ }) as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(list(), { target: { value: 'name,version\nPellam Reader,9.0\n' } });
    await user.click(screen.getByText('Make 1 row'));
    expect(begun).toEqual([{ action: 'draft', rows: [{ name: 'Pellam Reader', version: '9.0' }] }]);
  });
});
