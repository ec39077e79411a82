/** One entry point: the program, how it is called, what it opens, and the picture it is shown with. */
import { Input, Select } from 'antd';
import type { Problem } from '@vatline/contract/endpoint';
import type { EntryPoint } from '@vatline/core/container/manifest';
import { faultAt } from '../../api/problem.ts';
import { GuessedField, type GuessedFieldProps } from './guessed-field.tsx';
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
  const path = (field: keyof EntryPoint) => `entryPoints.${i}.${field}`;
  const set: PartProps['set'] = (field, value) =>
    draft.change(
      { entryPoints: entryPoints.map((one, n) => (n === i ? { ...one, [field]: value } : one)) },
      path(field),
    );
  const field: PartProps['field'] = (name, label) => ({
    draft,
    path: path(name),
    label,
    fault: faultIn(problem, path(name)),
  });
  const remove = () => draft.change({ entryPoints: entryPoints.filter((_one, n) => n !== i) }, 'entryPoints');
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
          <button type="button" className="plain-button" onClick={remove}>
            remove
          </button>
        )}
      </legend>
      <div className="fields">
        <Program entry={entry} field={field} set={set} programs={programs} pictures={pictures} />
        <Opens entry={entry} field={field} set={set} />
      </div>
    </fieldset>
  );
}

/** Of the field, or of one of the values in it. */
function faultIn(problem: Problem | undefined, path: string): string | undefined {
  return faultAt(problem, path) ?? problem?.faults.find((one) => one.path.startsWith(`${path}.`))?.message;
}

interface PartProps {
  readonly entry: EntryPoint;
  readonly field: (name: keyof EntryPoint, label: string) => Omit<GuessedFieldProps, 'children'>;
  readonly set: (field: keyof EntryPoint, value: string | string[] | undefined) => void;
}

/** What it is called and starts. */
function Program({
  entry,
  field,
  set,
  programs,
  pictures,
}: PartProps & Pick<Props, 'programs' | 'pictures'>) {
  return (
    <>
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
    </>
  );
}

/** What the system starts it for. */
function Opens({ entry, field, set }: PartProps) {
  const texts = (name: 'associations' | 'protocols', label: string, spoken: string, example: string) => (
    <GuessedField {...field(name, label)}>
      <Select
        mode="tags"
        aria-label={spoken}
        placeholder={example}
        tokenSeparators={[' ', ',']}
        value={[...(entry[name] ?? [])]}
        onChange={(list) => set(name, list.length > 0 ? list : undefined)}
        open={false}
      />
    </GuessedField>
  );
  return (
    <>
      {texts('associations', 'Opens files', `Files that ${entry.name} opens`, '.pel')}
      {texts('protocols', 'Handles protocols', `Protocols that ${entry.name} handles`, 'zinnet')}
    </>
  );
}
