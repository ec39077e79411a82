/** Why a file was not read, each reason at its place in it. */
import type { Fault } from '@vatline/core/result';

export function UnreadFile({ name, faults }: { readonly name: string; readonly faults: readonly Fault[] }) {
  if (faults.length === 0) return null;
  return (
    <div className="problem" role="alert">
      {name} was not read:
      {faults.map((fault) => (
        <div key={fault.path + fault.message}>
          {fault.path}: {fault.message}
        </div>
      ))}
    </div>
  );
}
