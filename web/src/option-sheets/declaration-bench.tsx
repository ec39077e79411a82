/** What a suite lets a person choose: options, rules and templates as text, checked as it is written. */
import { Button } from 'antd';
import { useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import type { KeptSuite, OptionSuiteInput } from '@vatline/contract/option-sheet';
import { readSuiteFile, writeSuiteFile } from '@vatline/contract/option-suite-file';
import { sheetFaults, type OptionSuite, type SheetValues } from '@vatline/core/option-sheet/suite';
import { optionSheetsApi } from '../api/option-sheets.ts';
import { problemOf } from '../api/problem.ts';
import { CheckedText } from '../parts/checked-text.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { plural } from '../parts/format.ts';
import { KeptMeanwhile } from '../parts/kept-meanwhile.tsx';

const first: OptionSuiteInput = {
  name: 'A suite',
  publisher: 'its publisher',
  version: '1.0',
  options: [
    {
      id: 'edition',
      label: 'Edition',
      kind: 'choice',
      choices: ['Standard', 'Complete'],
      default: 'Standard',
    },
  ],
  rules: [],
  templates: [{ name: 'command', form: 'plain', text: 'setup.exe /quiet /edition "{{edition}}"' }],
};

interface Props {
  readonly kept: KeptSuite | undefined;
  readonly children: ReactNode;
}

export function DeclarationBench({ kept, children }: Props) {
  const navigate = useNavigate();
  const written = writeSuiteFile(kept?.suite ?? first);
  const [text, setText] = useState(written);
  const [basedOn, setBasedOn] = useState(kept?.revision ?? 0);
  const [create, creating] = optionSheetsApi.useCreateOptionSuiteMutation();
  const [change, changing] = optionSheetsApi.useChangeOptionSuiteMutation();
  const read = readSuiteFile(text);
  const go = async () => {
    if (!read.ok) return;
    if (kept) {
      const { data } = await change({ params: { id: kept.id }, body: { ...read.value, basedOn } });
      if (data) setBasedOn(data.revision);
      return;
    }
    const result = await create({ body: read.value });
    if (result.data) void navigate(`/packages/options/${result.data.id}`);
  };
  const takeKept = () => {
    setText(written);
    setBasedOn(kept?.revision ?? 0);
    changing.reset();
  };
  const problem = problemOf(creating.error ?? changing.error);
  return (
    <section className="work" aria-label="Options and templates">
      <h1 className="answer">
        {headline(read.ok ? read.value : undefined, read.ok ? 0 : read.error.length)}
      </h1>
      <p className="under-answer">
        Options are a choice, many, yes or no, or a text; rules bind them to each other; templates turn a
        filled sheet into an answer file or a command.
      </p>
      {children}
      <CheckedText
        label="Declaration"
        height="390px"
        text={text}
        faults={read.ok ? [] : read.error}
        onChange={setText}
      />
      {read.ok && kept && <SheetsThen kept={kept} suite={read.value as OptionSuite} />}
      <div className="row" style={{ marginTop: 10 }}>
        {(text !== written || !kept) && (
          <Button
            type="primary"
            disabled={!read.ok}
            loading={creating.isLoading || changing.isLoading}
            onClick={() => void go()}
          >
            {kept ? 'Keep the declaration' : 'Declare it'}
          </Button>
        )}
        {kept && text !== written && <Button onClick={takeKept}>Drop the changes</Button>}
      </div>
      <ProblemNote problem={problem} />
      <KeptMeanwhile problem={problem} basedOn={basedOn} kept={kept?.revision ?? 0} onTake={takeKept} />
    </section>
  );
}

function headline(suite: OptionSuiteInput | undefined, faults: number): string {
  if (!suite) return `The declaration has ${plural(faults, 'fault')}.`;
  return `${suite.name} ${suite.version}: ${plural(suite.options.length, 'option')}, ${plural(suite.rules.length, 'rule')}, ${plural(suite.templates.length, 'template')}.`;
}

/** What a change would mean for the sheets that are there. */
function SheetsThen({ kept, suite }: { kept: KeptSuite; suite: OptionSuite }) {
  const broken = kept.sheets.flatMap((sheet) => {
    const faults = sheetFaults(suite, sheet.values as SheetValues);
    return faults[0] ? [`${sheet.name}: ${faults[0].path} ${faults[0].message}`] : [];
  });
  return broken.length === 0 ? (
    <p className="good">
      {kept.sheets.length === 1
        ? 'Its one sheet fits.'
        : `All of its ${plural(kept.sheets.length, 'sheet')} fit.`}
    </p>
  ) : (
    <div className="attention">
      {plural(broken.length, 'sheet')} would not fit any more:
      {broken.map((text) => (
        <div key={text}>{text}</div>
      ))}
    </div>
  );
}
