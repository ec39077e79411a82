/** One sheet: its options on the left, what it becomes and how it differs on the right. */
import { Button, Input, Select } from 'antd';
import { useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import type { KeptSuite } from '@vatline/contract/option-sheet';
import { compareSheets } from '@vatline/core/option-sheet/compare-sheets';
import { renderSheet } from '@vatline/core/option-sheet/render';
import {
  defaultValues,
  sheetFaults,
  type OptionSuite,
  type OptionValue,
  type SheetValues,
} from '@vatline/core/option-sheet/suite';
import { optionSheetsApi } from '../api/option-sheets.ts';
import { problemOf } from '../api/problem.ts';
import { Field, ProblemNote } from '../parts/field.tsx';
import { KeptMeanwhile } from '../parts/kept-meanwhile.tsx';
import { download } from '../parts/download.ts';
import { plural } from '../parts/format.ts';
import { OptionField } from './option-field.tsx';

type KeptSheet = KeptSuite['sheets'][number];

interface Props {
  readonly kept: KeptSuite;
  readonly sheet: KeptSheet | undefined;
  readonly children: ReactNode;
}

export function SheetBench({ kept, sheet, children }: Props) {
  const suite = kept.suite as OptionSuite;
  const editing = useSheet(kept, sheet);
  const { name, values, set } = editing;
  const faults = sheetFaults(suite, values);
  return (
    <div className="sheet-columns">
      <section className="work" aria-label={name || 'New sheet'}>
        <h1 className="answer">{headline(suite, name, faults.length)}</h1>
        <p className="under-answer">
          {suite.name} {suite.version}: what is chosen here becomes{' '}
          {suite.templates.map((one) => one.name).join(' and ')}.
        </p>
        {children}
        {!sheet && (
          <Field label="Name of the sheet" hint="such as the desktops that it is for">
            <Input value={name} onChange={(event) => editing.setName(event.target.value)} />
          </Field>
        )}
        <div className="fields" style={{ marginTop: 10 }}>
          {suite.options.map((option) => (
            <OptionField
              key={option.id}
              option={option}
              value={values[option.id]}
              fault={faults.find((fault) => fault.path === option.id)?.message}
              onChange={(value: OptionValue) => set({ ...values, [option.id]: value })}
            />
          ))}
        </div>
        <KeepSheet
          editing={editing}
          isNew={!sheet}
          kept={sheet?.revision ?? 0}
          isFaulty={faults.length > 0}
        />
      </section>
      <aside className="evidence" aria-label="What it becomes">
        <Preview suite={suite} values={values} />
        <Difference kept={kept} suite={suite} name={name} values={values} />
      </aside>
    </div>
  );
}

/** The sheet as it stands on the screen, and what can be done with it. */
function useSheet(kept: KeptSuite, sheet: KeptSheet | undefined) {
  const navigate = useNavigate();
  const saved = (sheet?.values ?? defaultValues(kept.suite as OptionSuite)) as SheetValues;
  const [values, set] = useState(saved);
  const [name, setName] = useState(sheet?.name ?? '');
  const [basedOn, setBasedOn] = useState(sheet?.revision ?? 0);
  const [save, { error, isLoading, reset }] = optionSheetsApi.useKeepOptionSheetMutation();
  const [remove, removing] = optionSheetsApi.useRemoveOptionSheetMutation();
  const params = { id: kept.id, name };
  return {
    name,
    setName,
    values,
    set,
    basedOn,
    isChanged: JSON.stringify(values) !== JSON.stringify(saved) || !sheet,
    isKeeping: isLoading,
    problem: problemOf(error ?? removing.error),
    keep: async () => {
      const { data } = await save({ params, body: { values, basedOn } });
      if (!data) return;
      setBasedOn(data.revision);
      void navigate(`/packages/options/${kept.id}/${encodeURIComponent(name)}`);
    },
    takeKept: () => {
      set(saved);
      setBasedOn(sheet?.revision ?? 0);
      reset();
    },
    drop: async () => {
      const removed = await remove({ params });
      if (!removed.error) void navigate(`/packages/options/${kept.id}`);
    },
  };
}

interface KeepProps {
  readonly editing: ReturnType<typeof useSheet>;
  readonly isNew: boolean;
  /** Revision that is kept as far as is known here. */
  readonly kept: number;
  readonly isFaulty: boolean;
}

function KeepSheet({ editing, isNew, kept, isFaulty }: KeepProps) {
  const { name, isChanged, problem } = editing;
  return (
    <>
      <div className="row">
        {isChanged && (
          <Button
            type="primary"
            loading={editing.isKeeping}
            disabled={isFaulty || name.trim() === ''}
            onClick={() => void editing.keep()}
          >
            Keep {name || 'the sheet'}
          </Button>
        )}
        {isChanged && !isNew && <Button onClick={editing.takeKept}>Drop the changes</Button>}
        {!isNew && (
          <button type="button" className="plain-button" onClick={() => void editing.drop()}>
            delete this sheet
          </button>
        )}
      </div>
      <ProblemNote problem={problem} />
      <KeptMeanwhile problem={problem} basedOn={editing.basedOn} kept={kept} onTake={editing.takeKept} />
    </>
  );
}

function headline(suite: OptionSuite, name: string, faults: number): string {
  if (faults > 0) return `${name || 'The new sheet'} has ${plural(faults, 'fault')}.`;
  return name ? `${name}: ${suite.name} as it will be installed.` : `How should ${suite.name} be installed?`;
}

function Preview({ suite, values }: { suite: OptionSuite; values: SheetValues }) {
  const rendered = renderSheet(suite, values);
  if (!rendered.ok)
    return (
      <p className="trouble">
        {rendered.error[0]?.path} {rendered.error[0]?.message}
      </p>
    );
  return rendered.value.map(({ name, text }) => (
    <section key={name} aria-label={name}>
      <div className="spread">
        <h2>{name}</h2>
        <Button size="small" aria-label={`Save ${name}`} onClick={() => download(name, text, 'text/plain')}>
          Save
        </Button>
      </div>
      <pre className="sheet-preview" tabIndex={0}>
        {text}
      </pre>
    </section>
  ));
}

interface DifferenceProps {
  readonly kept: KeptSuite;
  readonly suite: OptionSuite;
  readonly name: string;
  readonly values: SheetValues;
}

function Difference({ kept, suite, name, values }: DifferenceProps) {
  const others = kept.sheets.filter((sheet) => sheet.name !== name);
  const [chosen, setChosen] = useState<string>();
  const other = others.find((sheet) => sheet.name === chosen) ?? others[0];
  if (!other) return null;
  const rows = compareSheets(suite, other.values as SheetValues, values);
  return (
    <section aria-label="Difference between sheets">
      <h2>Against another sheet</h2>
      <Select
        aria-label="Other sheet"
        style={{ width: '100%' }}
        value={other.name}
        onChange={setChosen}
        options={others.map((sheet) => ({ value: sheet.name, label: sheet.name }))}
      />
      <p className="strong" style={{ marginTop: 6 }}>
        {rows.length === 0
          ? 'They are the same.'
          : `${plural(rows.length, 'option')} of ${suite.options.length} differ.`}
      </p>
      {rows.map((row) => (
        <div key={row.option} className="trial">
          {row.label}
          <div className="quiet">
            {row.added.length + row.removed.length > 2 ||
            suite.options.find((one) => one.id === row.option)?.kind === 'many'
              ? [...row.added.map((one) => `+ ${one}`), ...row.removed.map((one) => `− ${one}`)].join(', ')
              : `${row.before}, here ${row.after}`}
          </div>
        </div>
      ))}
    </section>
  );
}
