/** The lives of image versions and package versions, by hand: every state with every deed. */
import { describe, expect, it } from 'vitest';
import { canBeRolledOut, setBy, versionStates } from '../src/image/version-state.ts';
import {
  afterDeed,
  packageDeeds,
  packageStates,
  type PackageDeed,
  type PackageState,
} from '../src/package/version-state.ts';
import { attachRefusal, isOffered } from '../src/package/attachable.ts';
import { roles } from '../src/roles.ts';

describe('an image version', () => {
  it('is approved by an approver only, and set to anything else by anybody', () => {
    const allowed = roles.flatMap((role) =>
      versionStates.filter((state) => setBy(role, state).ok).map((state) => `${role}: ${state}`),
    );
    expect(allowed).toEqual([
      'engineer: draft',
      'engineer: in test',
      'engineer: retired',
      'operator: draft',
      'operator: in test',
      'operator: retired',
      'approver: draft',
      'approver: in test',
      'approver: approved',
      'approver: retired',
    ]);
  });

  it('tells the one who may not why', () => {
    expect(setBy('operator', 'approved')).toEqual({
      ok: false,
      error: [{ path: 'state', message: 'an approver approves; you act as operator' }],
    });
  });

  it('is rolled out unless it is retired', () => {
    expect(versionStates.filter(canBeRolledOut)).toEqual(['draft', 'in test', 'approved']);
  });
});

describe('a package version', () => {
  const after = (state: PackageState, deed: PackageDeed) => {
    const result = afterDeed(state, deed);
    return result.ok ? result.value : 'no';
  };
  const row = (deed: PackageDeed) => packageStates.map((state) => after(state, deed));

  it.each<[PackageDeed, (PackageState | 'no')[]]>([
    // From draft, verified, live, held, withdrawn.
    ['choose container', ['draft', 'draft', 'no', 'no', 'no']],
    ['sign', ['draft', 'draft', 'live', 'draft', 'draft']],
    ['found sound', ['verified', 'verified', 'live', 'held', 'withdrawn']],
    ['found unsound', ['draft', 'draft', 'live', 'held', 'withdrawn']],
    ['offer', ['no', 'live', 'live', 'live', 'no']],
    ['hold', ['no', 'held', 'held', 'held', 'held']],
    ['withdraw', ['no', 'withdrawn', 'withdrawn', 'withdrawn', 'withdrawn']],
  ])('when one does “%s”', (deed, states) => {
    expect(row(deed)).toEqual(states);
  });

  it('goes from a new build to hosts by signing, verifying and offering, and by no shorter way', () => {
    const lives = (deeds: readonly PackageDeed[]) =>
      deeds.reduce<PackageState | 'no'>(
        (state, deed) => (state === 'no' ? state : after(state, deed)),
        'draft',
      );
    expect(lives(['sign', 'found sound', 'offer'])).toBe('live');
    expect(lives(['sign', 'offer'])).toBe('no');
    expect(lives(['sign', 'found unsound', 'offer'])).toBe('no');
    expect(lives(['sign', 'found sound', 'choose container', 'offer'])).toBe('no');
  });

  it('says why not, in a sentence that names the state', () => {
    const reasons = packageDeeds.flatMap((deed) =>
      packageStates.flatMap((state) => {
        const result = afterDeed(state, deed);
        return result.ok ? [] : result.error.map(({ message }) => message);
      }),
    );
    expect(new Set(reasons)).toEqual(
      new Set([
        'it is live; what hosts have got is not changed under them',
        'it is held; what hosts have got is not changed under them',
        'it is withdrawn; what hosts have got is not changed under them',
        'it has not been verified; sign it and verify it first',
        'it is withdrawn; build and verify another version',
        'it is a draft, which no host has; there is nothing to hold',
      ]),
    );
  });

  it('is attached by hosts only when it is live, and stepped over when it is held', () => {
    const signature = { validFrom: 0, validTo: 10, isTrusted: true };
    const attached = packageStates.filter((state) => attachRefusal({ state, signature }, 5) === undefined);
    expect(attached).toEqual(['live', 'held']);
    expect(attached.filter((state) => isOffered({ state }))).toEqual(['live']);
  });
});
