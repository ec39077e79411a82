/** One entry point: the program, how it is called, what it opens, and the picture it is shown with. */
import { Input, Select } from 'antd';
import type { Problem } from '@vatline/contract/endpoint';
import type { EntryPoint } from '@vatline/core/container/manifest';
import { faultAt } from '../../api/problem.ts';
import { GuessedField } from './guessed-field.tsx';
import type { Draft } from './use-draft.ts';

interface Props {
  readonly captureId: string;
  readonly draft: Draft;
  readonly number: number;
  readonly programs: readonly string[];
  readonly pictures: Readonly<Record<string, { readonly fault: string }>>;
  readonly problem: Problem | undefined;
}

export function EntryPointFields({ captureId, draft, number: i, programs, pictures, problem }: Props) {
  const { entryPoints } = draft.manifest;
  const entry = entryPoints[i] as EntryPoint;
  const at = (field: keyof EntryPoint) => `entryPoints.${i}.${field}`;
  const set = (field: keyof EntryPoint, value: string | string[] | undefined) =>
    draft.change(
      { entryPoints: entryPoints.map((one, n) => (n === i ? { ...one, [field]: value } : one)) },
      at(field),
    );
  const fault = (field: keyof EntryPoint) =>
    faultAt(problem, at(field)) ??
    problem?.faults.find((one) => one.path.startsWith(`${at(field)}.`))?.message;
  const field = (name: keyof EntryPoint, label: string) => ({
    draft,
    path: at(name),
    label,
    fault: fault(name),
  });
  return (
    <fieldset className="entry-point">
      <legend className="row">
        {entry.icon && (
          <img
            alt=""
            width={24}
            height={24}
            src={`/api/v1/captures/${captureId}/picture?path=${encodeURIComponent(entry.icon)}`}
          />
        )}
        <b>{entry.name || `Entry point ${i + 1}`}</b>
        {entryPoints.length > 1 && (
          <button
            type="button"
            className="plain-button"
            onClick={() =>
              draft.change({ entryPoints: entryPoints.filter((_one, n) => n !== i) }, 'entryPoints')
            }
          >
            remove
          </button>
        )}
      </legend>
      <div className="fields">
        <GuessedField {...field('name', 'Shown as')}>
          <Input value={entry.name} onChange={(event) => set('name', event.target.value)} />
        </GuessedField>
        <GuessedField {...field('path', 'Program')}>
          <Select
            showSearch
            aria-label={`Program of ${entry.name}`}
            placeholder="the program it starts"
            value={entry.path || null}
            onChange={(path) => set('path', path ?? '')}
            options={programs.map((path) => ({ value: path, label: path }))}
          />
        </GuessedField>
        <GuessedField {...field('arguments', 'Arguments')}>
          <Input
            className="mono"
            placeholder="none"
            value={entry.arguments ?? ''}
            onChange={(event) => set('arguments', event.target.value || undefined)}
          />
        </GuessedField>
        <GuessedField {...field('icon', 'Picture')}>
          <Select
            allowClear
            aria-label={`Picture of ${entry.name}`}
            placeholder="none: it is shown blank"
            value={entry.icon ?? null}
            onChange={(path) => set('icon', path ?? undefined)}
            options={Object.entries(pictures).map(([path, picture]) => ({
              value: path,
              label: picture.fault ? `${path}, which ${picture.fault}` : path,
            }))}
          />
        </GuessedField>
        <GuessedField {...field('associations', 'Opens files')}>
          <Select
            mode="tags"
            aria-label={`Files that ${entry.name} opens`}
            placeholder=".pel"
            tokenSeparators={[' ', ',']}
            value={[...(entry.associations ?? [])]}
            onChange={(list) => set('associations', list.length > 0 ? list : undefined)}
            open={false}
          />
        </GuessedField>
        <GuessedField {...field('protocols', 'Handles protocols')}>
          <Select
            mode="tags"
            aria-label={`Protocols that ${entry.name} handles`}
            placeholder="zinnet"
            tokenSeparators={[' ', ',']}
            value={[...(entry.protocols ?? [])]}
            onChange={(list) => set('protocols', list.length > 0 ? list : undefined)}
            open={false}
          />
        </GuessedField>
      </div>
    </fieldset>
  );
}
