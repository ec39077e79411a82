import type { ReactNode } from 'react';
import type { Problem } from '@vatline/contract/endpoint';

/** A labelled field with what is wrong with it beside it. */
export function Field({
  label,
  fault,
  hint,
  wide,
  children,
}: {
  label: string;
  fault?: string | undefined;
  hint?: ReactNode;
  wide?: boolean;
  children: ReactNode;
}) {
  return (
    <div className={wide ? 'field wide' : 'field'}>
      <label>
        <span className="field-label">{label}</span>
        {children}
      </label>
      {fault ? (
        <span className="field-fault" role="alert">
          {fault}
        </span>
      ) : (
        hint && <span className="field-hint">{hint}</span>
      )}
    </div>
  );
}

/** What went wrong as a whole; faults at fields that are on screen are left to them. */
export function ProblemNote({
  problem,
  shown = [],
}: {
  problem: Problem | undefined;
  shown?: readonly string[];
}) {
  if (!problem) return null;
  const elsewhere = problem.faults.filter((fault) => !shown.includes(fault.path));
  if (problem.faults.length > 0 && elsewhere.length === 0) return null;
  return (
    <div className="problem" role="alert">
      {elsewhere.length > 0
        ? elsewhere.map((fault) => <div key={fault.path}>{fault.message}</div>)
        : problem.detail}
    </div>
  );
}
