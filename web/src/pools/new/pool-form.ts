/** The draft of a pool with what is said about it, for every group of its fields. */
import { useDeferredValue } from 'react';
import type { PoolDraft } from '@vatline/contract/pool/kinds';
import type { Problem } from '@vatline/contract/endpoint';
import type { PoolPreview } from '@vatline/contract/pool/preview';
import { poolsApi } from '../../api/pools.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { useAppDispatch, useAppSelector } from '../../shell/store.ts';
import { newPool, poolChanged } from './pool-draft.ts';

export type DraftPlace = NonNullable<PoolDraft['places']>[number];

export interface PoolForm {
  readonly draft: PoolDraft;
  readonly preview: PoolPreview | undefined;
  set(change: PoolDraft): void;
  setPlace(number: number, change: DraftPlace): void;
  /** What is wrong at a field; what is merely not chosen yet only after the first try. */
  fault(path: string): string | undefined;
}

interface NewPoolForm extends PoolForm {
  readonly problem: Problem | undefined;
  /** Whether the preview is of this draft; until it comes, that of the draft before is shown. */
  readonly isAnswered: boolean;
}

/** `refused`: what the server said when it was to be made. */
export function usePoolForm(refused: Problem | undefined): NewPoolForm {
  const dispatch = useAppDispatch();
  const { draft, tried } = useAppSelector(newPool);
  const asked = useDeferredValue(draft);
  const { data: preview, currentData, error } = poolsApi.usePreviewPoolQuery({ body: asked });
  const set = (change: PoolDraft) => dispatch(poolChanged(change));
  return {
    draft,
    preview,
    isAnswered: currentData !== undefined && asked === draft,
    problem: problemOf(error),
    set,
    setPlace: (number, change) =>
      set({
        places: (draft.places ?? []).map((place, i) => (i === number ? { ...place, ...change } : place)),
      }),
    fault: (path) => {
      const found = preview?.faults.find((row) => row.path === path);
      return (found?.isMissing && !tried ? undefined : found?.message) ?? faultAt(refused, path);
    },
  };
}
