/** Keeps the changes of a recipe as its next revision, or drops them. */
import { Button } from 'antd';
import type { LineDetail } from '@vatline/contract/image';
import { imagesApi } from '../../api/images.ts';
import { problemOf } from '../../api/problem.ts';
import type { LinePlan } from '../line-plan.ts';

interface Props {
  readonly line: LineDetail;
  readonly plan: LinePlan;
  readonly saving: ReturnType<typeof useKeepRecipe>;
}

/** Keeping a recipe; its problem is shown by who asked, where the fault is. */
export function useKeepRecipe(line: LineDetail, plan: LinePlan) {
  const [save, { isLoading, error }] = imagesApi.useSaveRecipeMutation();
  const keep = async () => {
    const result = await save({
      params: { id: line.id },
      body: { steps: plan.steps, hardware: plan.hardware, basedOn: plan.basedOn },
    });
    if (!('error' in result)) plan.drop();
  };
  return { keep, isLoading, problem: problemOf(error) };
}

export function KeepRecipe({ line, plan, saving }: Props) {
  return (
    <>
      <Button
        type="primary"
        disabled={plan.textFaults.length > 0 || plan.fragmentFaults.length > 0}
        loading={saving.isLoading}
        onClick={() => void saving.keep()}
      >
        Keep as recipe {line.recipeRevision + 1}
      </Button>
      <Button onClick={() => plan.drop()}>Drop the changes</Button>
    </>
  );
}
