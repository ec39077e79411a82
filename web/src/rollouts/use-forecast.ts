/** The forecast of something that is being changed: its middle at once, how sure it is as soon as it is known. */
import { useDeferredValue, useEffect, useState } from 'react';
import type { Problem } from '@vatline/contract/endpoint';
import type { ForecastAnswer, RolloutRequest } from '@vatline/contract/rollout';
import { problemOf } from '../api/problem.ts';
import { rolloutsApi } from '../api/rollouts.ts';
import { useAppDispatch, type AppDispatch } from '../shell/store.ts';

export interface LiveForecast<A> {
  /** Of what is asked as it is, or of what was before until something is known of it. */
  readonly answer: A | undefined;
  /** Whether all runs were made. */
  readonly isWhole: boolean;
  readonly problem: Problem | undefined;
}

/** An answer that is on its way. */
interface Asked<A> extends PromiseLike<{
  readonly data?: A | undefined;
  readonly error?: unknown;
  readonly isError: boolean;
}> {
  abort(): void;
  unsubscribe(): void;
}

/** One run says where the middle lies, and takes as long as a key press. */
const AT_FIRST = 1;

export function usePlanForecast(request: RolloutRequest): LiveForecast<ForecastAnswer> {
  return useLiveForecast(request, askForPlan);
}

const askForPlan = (dispatch: AppDispatch, request: RolloutRequest, runs?: number) =>
  dispatch(
    rolloutsApi.endpoints.forecast.initiate({ body: { ...request, ...(runs !== undefined && { runs }) } }),
  );

/** `ask` must be the same at each drawing. */
export function useLiveForecast<Request, A>(
  request: Request,
  ask: (dispatch: AppDispatch, request: Request, runs?: number) => Asked<A>,
): LiveForecast<A> {
  const dispatch = useAppDispatch();
  // By what it says: a request that is put together anew at each drawing is still the same.
  const key = useDeferredValue(JSON.stringify(request));
  const [known, setKnown] = useState<LiveForecast<A> & { readonly of: string }>({
    of: '',
    answer: undefined,
    isWhole: false,
    problem: undefined,
  });
  useEffect(() => {
    const asked = JSON.parse(key) as Request;
    let asking: readonly Asked<A>[] = [];
    let isOver = false;
    const take = (isWhole: boolean) => (result: Awaited<Asked<A>>) => {
      if (isOver) return;
      isOver = isWhole || result.isError;
      setKnown((before) => ({
        of: key,
        answer: result.isError ? undefined : (result.data ?? before.answer),
        isWhole,
        problem: problemOf(result.error),
      }));
    };
    // A moment later: what another screen asked just now, and has called off, would be called off here too.
    const soon = setTimeout(() => {
      const [first, whole] = [ask(dispatch, asked, AT_FIRST), ask(dispatch, asked)];
      asking = [first, whole];
      void first.then(take(false));
      void whole.then(take(true));
    });
    return () => {
      isOver = true;
      clearTimeout(soon);
      // The server ends what nobody waits for any more.
      for (const one of asking) {
        one.abort();
        one.unsubscribe();
      }
    };
  }, [key, dispatch, ask]);
  return { ...known, isWhole: known.isWhole && known.of === key };
}
