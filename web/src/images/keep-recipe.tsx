/** Keeps the changes of a recipe as its next revision, or drops them. */
import { Button } from 'antd';
import type { LineDetail } from '@vatline/contract/image';
import { api, problemOf } from '../shell/api.ts';
import { ProblemNote } from '../parts/field.tsx';
import type { LinePlan } from './line-plan.ts';

interface Props {
  readonly line: LineDetail;
  readonly plan: LinePlan;
  /** Told of what the server refuses, to show it at the steps themselves. */
  readonly saving?: ReturnType<typeof useKeepRecipe>;
}

export function useKeepRecipe(line: LineDetail, plan: LinePlan) {
  const [save, { isLoading, error }] = api.useSaveRecipeMutation();
  const keep = async () => {
    const result = await save({
      params: { id: line.id },
      body: { steps: [...plan.steps] as never, hardware: plan.hardware, basedOn: plan.basedOn },
    });
    if (!('error' in result)) plan.drop();
  };
  return { keep, isLoading, problem: problemOf(error) };
}

export function KeepRecipe({ line, plan, saving }: Props) {
  const own = useKeepRecipe(line, plan);
  const { keep, isLoading, problem } = saving ?? own;
  return (
    <>
      <Button type="primary" disabled={plan.broken} loading={isLoading} onClick={() => void keep()}>
        Keep as recipe {line.recipeRevision + 1}
      </Button>
      <Button onClick={() => plan.drop()}>Drop the changes</Button>
      {!saving && <ProblemNote problem={problem} />}
    </>
  );
}
