/** Checkpoints of a line: what each takes, when it was used, what was on the machine, and their budget. */
import { InputNumber } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import type { LineDetail } from '@vatline/contract/image';
import { planEviction } from '@vatline/core/image/checkpoint-eviction';
import { describeStep } from '@vatline/core/image/describe-step';
import { imagesApi } from '../../api/images.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { plural, relative, size } from '../../parts/format.ts';
import type { LinePlan } from '../line-plan.ts';

const GB = 1e9;

export function CheckpointTable({ line, plan }: { readonly line: LineDetail; readonly plan: LinePlan }) {
  const { now } = useEstateTime();
  if (line.checkpoints.length === 0)
    return <p className="quiet">No checkpoints yet: every finished step of a build leaves one.</p>;
  const total = line.checkpoints.reduce((sum, checkpoint) => sum + checkpoint.sizeBytes, 0);
  const steps = new Map(plan.build.steps.map((planned) => [planned.key, planned.step]));
  const source = (key: string) => `checkpoint:${line.id}:${key}`;
  return (
    <section aria-label="Checkpoints">
      <h2 className="section-title">
        {plural(line.checkpoints.length, 'checkpoint')}, {size(total)}
      </h2>
      <Budget line={line} standingOn={new Set(steps.keys())} />
      <table className="table" style={{ marginBottom: 14 }}>
        <thead>
          <tr>
            <th className="number">After step</th>
            <th>Step</th>
            <th className="number">Takes</th>
            <th>Used</th>
            <th>
              <span className="sr-only">Look</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {line.checkpoints.map(({ key, step, sizeBytes, usedAt }, i) => {
            const own = steps.get(key);
            const before = line.checkpoints[i - 1];
            return (
              <tr key={key}>
                <td className="number" style={{ width: 80 }}>
                  {step + 1}
                </td>
                <td>{own ? describeStep(own).title : <span className="quiet">of an earlier recipe</span>}</td>
                <td className="number unbroken">{size(sizeBytes)}</td>
                <td className="quiet unbroken">{relative(usedAt, now)}</td>
                <td className="unbroken checkpoint-links">
                  <Link to={`/images/${line.id}/compare?from=nothing&to=${source(key)}`}>open</Link>
                  {before && (
                    <Link to={`/images/${line.id}/compare?from=${source(before.key)}&to=${source(key)}`}>
                      what it did
                    </Link>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

interface BudgetProps {
  readonly line: LineDetail;
  /** Keys of checkpoints that the recipe would build from. */
  readonly standingOn: ReadonlySet<string>;
}

function Budget({ line, standingOn }: BudgetProps) {
  const [budget, setBudget] = useState(line.checkpointBudgetBytes / GB);
  const [save, { error, isLoading }] = imagesApi.useSetCheckpointBudgetMutation();
  const { evicted } = planEviction(line.checkpoints, budget * GB, standingOn);
  const fault = faultAt(problemOf(error), 'bytes');
  return (
    <>
      <div className="row small">
        <span>They may take</span>
        <InputNumber
          aria-label="Gigabytes for checkpoints"
          size="small"
          style={{ width: 80 }}
          value={budget}
          onChange={(value) => value !== null && setBudget(value)}
        />
        <span>
          GB.{' '}
          {evicted.length === 0
            ? 'All of them fit.'
            : `The next build would let ${plural(evicted.length, 'checkpoint')} go, the least recently used first.`}
        </span>
        {budget * GB !== line.checkpointBudgetBytes && (
          <button
            type="button"
            className="outline-button"
            disabled={isLoading}
            onClick={() => void save({ params: { id: line.id }, body: { bytes: budget * GB } })}
          >
            Keep this budget
          </button>
        )}
      </div>
      {fault && (
        <span className="field-fault" role="alert">
          {fault}
        </span>
      )}
    </>
  );
}
