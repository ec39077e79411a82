/** What a package needs and what it sets: rows of two texts each. */
import { Input } from 'antd';
import type { Problem } from '@vatline/contract/endpoint';
import type { Dependency, EnvironmentVariable } from '@vatline/core/container/manifest';
import { faultAt } from '../../api/problem.ts';
import { GuessMark } from './guessed-field.tsx';
import type { Draft } from './use-draft.ts';

interface Column {
  readonly field: string;
  readonly label: string;
  readonly placeholder: string;
}

interface Props<T> {
  readonly draft: Draft;
  readonly problem: Problem | undefined;
  /** Part of the manifest. */
  readonly part: 'dependencies' | 'environment';
  readonly rows: readonly T[];
  readonly columns: readonly [Column, Column];
  readonly none: string;
  readonly add: string;
}

function TwoTexts<T extends { readonly name: string }>({
  draft,
  problem,
  part,
  rows,
  columns,
  none,
  add,
}: Props<T>) {
  const set = (next: readonly T[], path: string) => draft.change({ [part]: next }, path);
  const empty = Object.fromEntries(columns.map(({ field }) => [field, ''])) as unknown as T;
  return (
    <div className="two-texts">
      {rows.length === 0 && <p className="quiet">{none}</p>}
      {rows.map((row, i) => {
        const path = `${part}.${row.name}`;
        const faults = columns.flatMap(({ field }) => faultAt(problem, `${part}.${i}.${field}`) ?? []);
        return (
          <div key={i}>
            <div className="two-texts-row">
              {columns.map(({ field, label, placeholder }) => (
                <Input
                  key={field}
                  aria-label={`${label}, ${i + 1}`}
                  placeholder={placeholder}
                  value={(row as unknown as Record<string, string>)[field] ?? ''}
                  onChange={(event) =>
                    set(
                      rows.map((one, n) => (n === i ? { ...one, [field]: event.target.value } : one)),
                      path,
                    )
                  }
                />
              ))}
              <button
                type="button"
                className="plain-button"
                aria-label={`Remove ${row.name || `row ${i + 1}`}`}
                onClick={() =>
                  set(
                    rows.filter((_one, n) => n !== i),
                    path,
                  )
                }
              >
                remove
              </button>
            </div>
            {faults.map((fault) => (
              <span key={fault} className="field-fault" role="alert">
                {fault}
              </span>
            ))}
            <GuessMark draft={draft} path={path} label={row.name} />
          </div>
        );
      })}
      <button type="button" className="plain-button" onClick={() => set([...rows, empty], part)}>
        {add}
      </button>
    </div>
  );
}

export function Dependencies({ draft, problem }: { draft: Draft; problem: Problem | undefined }) {
  const rows: readonly Dependency[] = draft.manifest.dependencies ?? [];
  return (
    <TwoTexts
      draft={draft}
      problem={problem}
      part="dependencies"
      rows={rows}
      columns={[
        { field: 'name', label: 'Needed package', placeholder: 'name of the package' },
        { field: 'range', label: 'Versions that will do', placeholder: '>=5.0 <6' },
      ]}
      none="It needs no other package."
      add="add a package that it needs"
    />
  );
}

export function Environment({ draft, problem }: { draft: Draft; problem: Problem | undefined }) {
  const rows: readonly EnvironmentVariable[] = draft.manifest.environment ?? [];
  return (
    <TwoTexts
      draft={draft}
      problem={problem}
      part="environment"
      rows={rows}
      columns={[
        { field: 'name', label: 'Variable', placeholder: 'name' },
        { field: 'value', label: 'Value', placeholder: 'value' },
      ]}
      none="It sets no environment variable."
      add="add a variable"
    />
  );
}
