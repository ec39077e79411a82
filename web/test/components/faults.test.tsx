/** Where a form says what is wrong with it, and which of its buttons can be pressed. */
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Certificate, PackageVersion } from '@vatline/contract/package';
import { Field, ProblemNote } from '../../src/parts/field.tsx';
import { KeepNewest } from '../../src/parts/keep-newest.tsx';
import { SigningBar } from '../../src/packages/trust/signing-bar.tsx';
import { refusal, shown } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const problem = {
  type: 'about:blank',
  title: 'Cannot be used',
  status: 422,
  detail: 'name is empty; window.rule never happens',
  faults: [
    { path: 'name', message: 'is empty' },
    { path: 'window.rule', message: 'never happens' },
  ],
};

describe('a refusal', () => {
  it('stands at its field, in place of the hint', () => {
    shown(
      <Field label="Name" fault="is empty" hint="as people call it">
        <input />
      </Field>,
      {},
    );
    expect(screen.getByRole('alert').textContent).toBe('is empty');
    expect(screen.queryByText('as people call it')).toBeNull();
    expect(screen.getByLabelText(/Name/)).toBeTruthy();
  });

  it('is said as a whole only as far as no field on the screen says it', () => {
    const { rerender } = shown(<ProblemNote problem={problem} shown={['name']} />, {});
    expect(screen.getByRole('alert').textContent).toBe('never happens');
    rerender(<ProblemNote problem={problem} shown={['name', 'window.rule']} />);
    expect(screen.queryByRole('alert')).toBeNull();
    rerender(<ProblemNote problem={{ ...problem, faults: [] }} />);
    expect(screen.getByRole('alert').textContent).toBe(problem.detail);
  });
});

const certificate = (change: Partial<Certificate>): Certificate =>
  ({
    id: 'c1',
    name: 'Wrenfield Packaging 2026',
    fault: '',
    trustedBy: ['desk-staff'],
    validTo: 10,
    validity: { state: 'valid', days: 529 },
    ...change,
  }) as Certificate;
const version = (change: Partial<PackageVersion>): PackageVersion =>
  ({
    id: 'v1',
    name: 'Reader',
    version: '9.0',
    state: 'draft',
    signed: null,
    activeJob: null,
    ...change,
  }) as PackageVersion;
const names = () =>
  screen
    .getAllByRole('button')
    .map((one) => `${one.textContent ?? ''}${(one as HTMLButtonElement).disabled ? ' (not yet)' : ''}`);
const standsOut = () =>
  screen
    .getAllByRole('button')
    .filter((one) => one.className.includes('ant-btn-color-primary') && one.className.includes('solid'))
    .map((one) => one.textContent);

describe('signing, verifying and offering', () => {
  const show = (change: Partial<PackageVersion>, certificates = [certificate({})]) =>
    shown(<SigningBar version={version(change)} />, {
      'GET /certificates': certificates,
      'POST /package-versions/v1/sign': { done: true },
      'POST /package-versions/v1/offer': refusal(
        { '': 'Hosts would not attach it: it is not signed; sign it first' },
        409,
      ),
    });

  it('of a draft begins with signing; it cannot be offered yet, and says why', async () => {
    show({});
    await vi.waitFor(() => expect(names()).toEqual(['Sign', 'Verify', 'Offer to hosts (not yet)']));
    expect(standsOut()).toEqual(['Sign']);
    expect(screen.getByText('Offer to hosts').closest('button')?.title).toBe(
      'it has not been verified; sign it and verify it first',
    );
  });

  it('of a signed draft goes on with verifying', async () => {
    show({ signed: {} as PackageVersion['signed'] });
    await vi.waitFor(() => expect(names()).toEqual(['Sign again', 'Verify', 'Offer to hosts (not yet)']));
    expect(standsOut()).toEqual(['Verify']);
  });

  it('of a verified version goes on with offering', async () => {
    show({ state: 'verified', signed: {} as PackageVersion['signed'] });
    await vi.waitFor(() => expect(names()).toEqual(['Sign again', 'Verify', 'Offer to hosts']));
    expect(standsOut()).toEqual(['Offer to hosts']);
  });

  it('of a live version has holding and withdrawing in place of offering', async () => {
    show({ state: 'live', signed: {} as PackageVersion['signed'] });
    await vi.waitFor(() => expect(names()).toEqual(['Sign again', 'Verify', 'Hold', 'Withdraw']));
    expect(standsOut()).toEqual([]);
  });

  it('takes the certificate that most pools trust, and never one that cannot sign', async () => {
    const { sent, user } = show({}, [
      certificate({ id: 'lost', fault: 'its key is lost', trustedBy: ['a', 'b', 'c'] }),
      certificate({ id: 'few' }),
      certificate({ id: 'many', trustedBy: ['a', 'b'] }),
    ]);
    await vi.waitFor(() => expect(names()).toContain('Sign'));
    await user.click(screen.getByText('Sign'));
    await vi.waitFor(() =>
      expect(sent.filter((one) => one.call.startsWith('POST'))).toEqual([
        { call: 'POST /package-versions/v1/sign', body: { certificateId: 'many' } },
      ]),
    );
  });

  it('without any certificate cannot sign', async () => {
    show({}, []);
    await vi.waitFor(() => expect(names()[0]).toBe('Sign (not yet)'));
  });

  it('says what the server refuses, below', async () => {
    const { user } = show({ state: 'verified', signed: {} as PackageVersion['signed'] });
    await user.click(await screen.findByText('Offer to hosts'));
    expect((await screen.findByRole('alert')).textContent).toBe(
      'Hosts would not attach it: it is not signed; sign it first',
    );
  });
});

describe('how many are kept', () => {
  it('is a whole number, said again as it is changed', async () => {
    const changed: number[] = [];
    const { user, container } = shown(<KeepNewest keep={6} onChange={(n) => changed.push(n)} />, {});
    const field = within(container).getByRole('spinbutton');
    await user.clear(field);
    await user.type(field, '3');
    expect(changed.at(-1)).toBe(3);
  });
});
