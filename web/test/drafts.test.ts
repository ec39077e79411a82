/** What is typed and not kept stays in the store, each line's by itself, whatever screen is open. */
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { CutScheduleRequest } from '@vatline/contract/cut-schedule';
import type { RolloutRequest } from '@vatline/contract/rollout';

const kept = new Map<string, string>();
vi.stubGlobal('localStorage', {
  getItem: (key: string) => kept.get(key) ?? null,
  setItem: (key: string, value: string) => kept.set(key, value),
});
afterAll(() => vi.unstubAllGlobals());

type Shell = typeof import('../src/shell/store.ts');
type Recipes = typeof import('../src/images/recipe/recipe-drafts.ts');
type Schedules = typeof import('../src/images/schedule/schedule-drafts.ts');
let store: Shell['store'];
let recipes: Recipes;
let schedules: Schedules;
beforeAll(async () => {
  ({ store } = await import('../src/shell/store.ts'));
  recipes = await import('../src/images/recipe/recipe-drafts.ts');
  schedules = await import('../src/images/schedule/schedule-drafts.ts');
});

const hardware = {} as never;
const draft = (basedOn: number) => ({ basedOn, steps: [], hardware });
const recipeOf = (lineId: string) => recipes.recipeDraftOf(store.getState(), lineId);

describe('the draft of a recipe', () => {
  it('is not there before anything was changed, though its station has just come', () =>
    expect(recipeOf('line-1')).toBeUndefined());

  it('is kept for each line, and dropped alone', () => {
    store.dispatch(recipes.changed({ lineId: 'line-1', draft: draft(3) }));
    store.dispatch(
      recipes.changed({ lineId: 'line-2', draft: { ...draft(5), text: 'half a rec', textFaults: [] } }),
    );
    expect([recipeOf('line-1')?.basedOn, recipeOf('line-2')?.text]).toEqual([3, 'half a rec']);
    store.dispatch(recipes.dropped('line-1'));
    expect([recipeOf('line-1'), recipeOf('line-2')?.basedOn]).toEqual([undefined, 5]);
  });
});

describe('the draft of a schedule', () => {
  it('lives beside the recipe of the same line', () => {
    const schedule = { rule: 'FREQ=WEEKLY' } as CutScheduleRequest;
    store.dispatch(schedules.scheduleChanged({ lineId: 'line-2', schedule, basedOn: 1 }));
    expect(schedules.scheduleDraftOf(store.getState(), 'line-2')).toEqual({ schedule, basedOn: 1 });
    store.dispatch(schedules.scheduleDropped('line-2'));
    expect(schedules.scheduleDraftOf(store.getState(), 'line-2')).toBeUndefined();
    expect(recipeOf('line-2')?.basedOn).toBe(5);
  });
});

describe('the draft of a plan', () => {
  it('is kept by what it began from, and dropped alone', async () => {
    const { planChanged, planDraftOf, planDropped } = await import('../src/rollouts/plans/plan-drafts.ts');
    const of = (key: string) => planDraftOf(store.getState(), key)?.batch;
    const request = (batch: number) => ({ batch }) as RolloutRequest;
    store.dispatch(planChanged({ of: 'pool=a', request: request(3) }));
    store.dispatch(planChanged({ of: 'pool=a&plan=p1', request: request(8) }));
    expect([of('pool=a'), of('pool=a&plan=p1'), of('pool=b')]).toEqual([3, 8, undefined]);
    store.dispatch(planDropped('pool=a'));
    expect([of('pool=a'), of('pool=a&plan=p1')]).toEqual([undefined, 8]);
  });
});

describe('the frame', () => {
  it('keeps in the browser whether it is dark', async () => {
    const { themeSwitched, toggled, closed } = await import('../src/shell/layout.ts');
    store.dispatch(themeSwitched());
    expect([store.getState().layout.dark, kept.get('vatline.dark')]).toEqual([true, 'yes']);
    store.dispatch(themeSwitched());
    expect(kept.get('vatline.dark')).toBe('no');
    store.dispatch(toggled('journalOpen'));
    expect(store.getState().layout.journalOpen).toBe(true);
    store.dispatch(closed('journalOpen'));
    expect(store.getState().layout.journalOpen).toBe(false);
  });
});
