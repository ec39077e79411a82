import { describe, expect, it } from 'vitest';
import { effectOf, hostActions, type ActedHost } from '../src/pool/host-actions.ts';
import {
  holdBack,
  hostStates,
  letIn,
  standingIn,
  stateAfterWork,
  stateOf,
} from '../src/pool/service-state.ts';

const host = (
  name: string,
  state: (typeof hostStates)[number] = 'in service',
  change: Partial<ActedHost> = {},
): ActedHost => ({
  name,
  ...standingIn(state),
  isHeld: state === 'held',
  sessions: state === 'in service' ? 4 : 0,
  owner: null,
  hasDisk: true,
  dataBytes: 0,
  isInRollout: false,
  ...change,
});
const LIMIT = 10;
const why = (action: (typeof hostActions)[number], one: ActedHost) =>
  effectOf(action, [one], LIMIT).passedOver[0]?.why;

describe('what an action does to hosts', () => {
  const hosts = [host('A'), host('B', 'held'), host('C', 'off'), host('D', 'rebuilding')];

  it('restart: those that are on and not at work, whose people are signed out, no seat lost for long', () =>
    expect(effectOf('restart', hosts, LIMIT)).toEqual({
      hosts: ['A', 'B'],
      passedOver: [
        { name: 'C', why: 'is off' },
        { name: 'D', why: 'is rebuilding' },
      ],
      sessionsEnded: 4,
      dataLostBytes: 0,
      seatsLost: 0,
    }));

  it('power off: the seats of those in service are lost; power on: those of hosts that are not held come', () => {
    expect(effectOf('power off', hosts, LIMIT)).toMatchObject({
      hosts: ['A', 'B'],
      seatsLost: 10,
      sessionsEnded: 4,
    });
    const off = [host('C', 'off'), host('E', 'off', { isHeld: true })];
    expect(effectOf('power on', off, LIMIT)).toMatchObject({ hosts: ['C', 'E'], seatsLost: -10 });
    expect(why('power on', host('A'))).toBe('is on');
  });

  it('hold: also those at work, which are held when it is done; people stay', () => {
    expect(effectOf('hold', hosts, LIMIT)).toMatchObject({
      hosts: ['A', 'C', 'D'],
      sessionsEnded: 0,
      seatsLost: 10,
    });
    expect(why('hold', host('B', 'held'))).toBe('is held already');
    expect(effectOf('let in', hosts, LIMIT)).toMatchObject({ hosts: ['B'], seatsLost: -10 });
  });

  it('message: only where somebody is', () => {
    expect(why('message', host('A', 'in service', { sessions: 0 }))).toBe('has nobody on it');
    expect(effectOf('message', hosts, LIMIT)).toMatchObject({ hosts: ['A'], sessionsEnded: 0, seatsLost: 0 });
  });

  it('remove: with the personal data on them, but none that a rollout has in its list', () => {
    const own = host('M', 'in service', { dataBytes: 250e9, owner: 'una.tarn' });
    expect(effectOf('remove', [own, host('C', 'off')], LIMIT)).toMatchObject({
      hosts: ['M', 'C'],
      dataLostBytes: 250e9,
      sessionsEnded: 4,
    });
    expect(why('remove', { ...own, isInRollout: true })).toBe('is in the list of a rollout that is not over');
  });

  it('nothing twice: each host is done or passed over, whatever its state', () => {
    for (const action of hostActions) {
      const all = hostStates.map((state) => host(state, state));
      const { hosts: done, passedOver } = effectOf(action, all, LIMIT);
      expect([...done, ...passedOver.map((one) => one.name)].sort()).toEqual([...hostStates].sort());
    }
  });
});

describe('holding back', () => {
  it.each(hostStates)(
    'a host that is %s, and letting it in again, comes to where it was or would be',
    (state) => {
      const before = standingIn(state);
      const held = holdBack(before);
      expect(held.isHeld).toBe(true);
      expect(stateOf(held)).toBe(state === 'in service' ? 'held' : state);
      expect(letIn(held)).toEqual({
        ...(state === 'held' ? standingIn('in service') : before),
        isHeld: false,
      });
      expect(stateAfterWork(held)).toBe('held');
    },
  );
});
