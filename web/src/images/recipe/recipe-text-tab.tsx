/** The recipe as text: the recipe file beside the steps it makes, or a script for a machine without a driver. */
import { lazy, Suspense, useMemo, useState } from 'react';
import { Button } from 'antd';
import type { LineDetail } from '@vatline/contract/image';
import { readRecipeFile, writeRecipeFile } from '@vatline/contract/recipe-file';
import { describeStep } from '@vatline/core/image/describe-step';
import { numbersOf, rowsKept } from '@vatline/core/image/plan-rows';
import type { ScriptDialect } from '@vatline/core/image/script-out/write-script';
import { Chips } from '../../parts/chips.tsx';
import { minutes, plural } from '../../parts/format.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { TextFaults } from '../../parts/text-faults.tsx';
import { Waterline } from '../../parts/waterline.tsx';
import { KeepRecipe, useKeepRecipe } from './keep-recipe.tsx';
import type { LinePlan } from '../line-plan.ts';
import { ScriptOut } from './script-out.tsx';

const TextEditor = lazy(() => import('../../parts/text-editor.tsx'));

const forms = [
  ['yaml', 'Recipe file'],
  ['powershell', 'PowerShell'],
  ['shell', 'Shell'],
] as const;

interface Props {
  readonly line: LineDetail;
  readonly plan: LinePlan;
}

export default function RecipeTextTab({ line, plan }: Props) {
  const [form, setForm] = useState<'yaml' | ScriptDialect>('yaml');
  return (
    <>
      <Chips label="As what" style={{ marginBottom: 8 }} options={forms} chosen={form} onPress={setForm} />
      {form === 'yaml' ? (
        <RecipeFile line={line} plan={plan} />
      ) : (
        <ScriptOut line={line} plan={plan} dialect={form} />
      )}
    </>
  );
}

/** A fault stands on its line and nothing typed is lost. */
function RecipeFile({ line, plan }: Props) {
  const written = useMemo(() => writeRecipeFile(plan.steps), [plan.steps]);
  const text = plan.text ?? written;
  const faults = plan.textFaults;
  const saving = useKeepRecipe(line, plan);
  return (
    <>
      <div className="recipe-text">
        <Suspense fallback={<p className="quiet">The editor is loading.</p>}>
          <TextEditor
            label="Recipe as text"
            language="yaml"
            height="400px"
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
          <TextFaults faults={faults} />
        </div>
      )}
      {faults.length === 0 && plan.fragmentFaults.length > 0 && (
        <div role="alert" className="recipe-text-faults trouble">
          {plan.fragmentFaults.map((fault) => (
            <div key={fault.path}>
              <code>{fault.path}</code> {fault.message}
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
function Steps({ plan }: { readonly plan: LinePlan }) {
  const kept = rowsKept(plan.rows);
  return (
    <ol className="ladder" aria-label="Steps of the text" tabIndex={0}>
      {plan.rows.map((row, i) => (
        <li
          key={row.step.id}
          className={`step ${row.kept ? 'kept' : ''} ${row.step.disabled ? 'left-out' : ''}`}
        >
          {i === kept && i > 0 && <Waterline minutesSaved={plan.build.minutesSaved} />}
          <div className="step-line">
            <span className="step-number">{numbersOf(row)}</span>
            <span className="strong">{describeStep(row.step).title}</span>
            <span className="number">{row.kept ? <s>{minutes(row.minutes)}</s> : minutes(row.minutes)}</span>
          </div>
        </li>
      ))}
    </ol>
  );
}
