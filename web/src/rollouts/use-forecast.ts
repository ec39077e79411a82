/** The forecast of a plan that is being changed: its middle at once, how sure it is as soon as it is known. */
import { useDeferredValue, useEffect, useState } from 'react';
import type { ForecastAnswer, RolloutRequest } from '@vatline/contract/rollout';
import type { Problem } from '@vatline/contract/endpoint';
import { rolloutsApi } from '../api/rollouts.ts';
import { problemOf } from '../api/problem.ts';
import { useAppDispatch } from '../shell/store.ts';

export interface PlanForecast {
  /** Of the plan as it is, or of the one before until something is known of it. */
  readonly answer: ForecastAnswer | undefined;
  /** Whether all runs were made. */
  readonly isWhole: boolean;
  readonly problem: Problem | undefined;
}

/** One run says where the middle lies, and takes as long as a key press. */
const AT_FIRST = 1;

export function usePlanForecast(request: RolloutRequest): PlanForecast {
  const dispatch = useAppDispatch();
  // By what it says: a request that is put together anew at each drawing is still the same.
  const key = useDeferredValue(JSON.stringify(request));
  const [known, setKnown] = useState<PlanForecast & { readonly of: string }>({
    of: '',
    answer: undefined,
    isWhole: false,
    problem: undefined,
  });
  useEffect(() => {
    const asked = JSON.parse(key) as RolloutRequest;
    const ask = (runs?: number) =>
      dispatch(
        rolloutsApi.endpoints.forecast.initiate({ body: { ...asked, ...(runs !== undefined && { runs }) } }),
      );
    const [first, whole] = [ask(AT_FIRST), ask()];
    let isOver = false;
    const take = (isWhole: boolean) => (result: Awaited<typeof whole>) => {
      if (isOver) return;
      isOver = isWhole || result.isError;
      setKnown((before) => ({
        of: key,
        answer: result.isError ? undefined : (result.data ?? before.answer),
        isWhole,
        problem: problemOf(result.error),
      }));
    };
    void first.then(take(false));
    void whole.then(take(true));
    return () => {
      isOver = true;
      // The server ends what nobody waits for any more.
      for (const one of [first, whole]) {
        one.abort();
        one.unsubscribe();
      }
    };
  }, [key, dispatch]);
  return { ...known, isWhole: known.isWhole && known.of === key };
}
