/** The recipe as text beside the steps it makes; a fault stands on its line and nothing typed is lost. */
import { lazy, Suspense, useMemo } from 'react';
import { Button } from 'antd';
import type { LineDetail } from '@vatline/contract/image';
import { readRecipeFile, writeRecipeFile } from '@vatline/contract/recipe-file';
import { describeStep } from '@vatline/core/image/describe-step';
import { minutes, plural } from '../parts/format.ts';
import { ProblemNote } from '../parts/field.tsx';
import { Waterline } from '../parts/waterline.tsx';
import { KeepRecipe, useKeepRecipe } from './keep-recipe.tsx';
import type { LinePlan } from './line-plan.ts';

const RecipeTextEditor = lazy(() => import('./recipe-text-editor.tsx'));

export default function RecipeTextTab({ line, plan }: { line: LineDetail; plan: LinePlan }) {
  const written = useMemo(() => writeRecipeFile(plan.steps), [plan.steps]);
  const text = plan.text ?? written;
  const faults = plan.textFaults;
  const saving = useKeepRecipe(line, plan);
  return (
    <>
      <div className="recipe-text">
        <Suspense fallback={<p className="quiet">The editor is loading.</p>}>
          <RecipeTextEditor
            text={text}
            faults={faults}
            onChange={(next) => plan.changeText(next, readRecipeFile(next))}
          />
        </Suspense>
        <Steps plan={plan} />
      </div>
      {faults.length > 0 && (
        <div role="alert" className="recipe-text-faults">
          <b className="trouble">
            {plural(faults.length, 'fault')}: the steps beside are those of the last text without any.
          </b>
          {faults.slice(0, 6).map((fault) => (
            <div key={`${fault.line}:${fault.column}:${fault.path}`}>
              line {fault.line}, column {fault.column}: {fault.path && <code>{fault.path}</code>}{' '}
              {fault.message}
            </div>
          ))}
        </div>
      )}
      <div className="recipe-foot">
        {faults.length === 0 && text !== written && (
          <Button onClick={() => plan.change(plan.steps)}>Write it in the usual form</Button>
        )}
        {plan.isDraft && <KeepRecipe line={line} plan={plan} saving={saving} />}
      </div>
      <ProblemNote problem={saving.problem} />
    </>
  );
}

/** What the text makes: the steps with their minutes, and where the waterline lies. */
function Steps({ plan }: { plan: LinePlan }) {
  const { build } = plan;
  return (
    <ol className="ladder" aria-label="Steps of the text">
      {build.steps.map(({ step, fromCheckpoint, minutes: lasts }, i) => (
        <li
          key={step.id}
          className={`step ${fromCheckpoint ? 'kept' : ''} ${step.disabled ? 'left-out' : ''}`}
        >
          {i === build.waterline && i > 0 && <Waterline minutesSaved={build.minutesSaved} />}
          <div className="step-line">
            <span className="step-number">{i + 1}</span>
            <span className="strong">{describeStep(step).title}</span>
            <span className="number">{fromCheckpoint ? <s>{minutes(lasts)}</s> : minutes(lasts)}</span>
          </div>
        </li>
      ))}
    </ol>
  );
}
