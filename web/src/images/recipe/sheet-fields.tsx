/** The option sheet that a step installs by: choosing one fills in the suite and what it renders to. */
import { Select } from 'antd';
import { Link } from 'react-router';
import { sheetTrouble, type FilledSheet } from '@vatline/core/option-sheet/filled-sheet';
import type { OptionSheetStep, Step } from '@vatline/core/image/recipe';
import { Field } from '../../parts/field.tsx';

interface Props {
  readonly step: OptionSheetStep;
  readonly sheets: readonly FilledSheet[];
  readonly fault: string | undefined;
  readonly onChange: (step: Step) => void;
}

export function SheetFields({ step, sheets, fault, onChange }: Props) {
  const keyOf = (suite: string, sheet: string) => JSON.stringify([suite, sheet]);
  const trouble = step.sheet === '' ? undefined : sheetTrouble(step, sheets);
  const choose = (key: string) => {
    const found = sheets.find((one) => keyOf(one.suite, one.sheet) === key);
    if (!found) return;
    const { suite: name, publisher, version, sheet, digest } = found;
    onChange({ ...step, name, publisher, version, sheet, digest: digest ?? '' });
  };
  return (
    <div className="fields">
      <Field
        label="Filled option sheet"
        fault={trouble?.what ?? fault}
        wide
        hint={
          step.digest === '' ? (
            <>
              sheets are filled in under <Link to="/packages/options">Option sheets</Link>
            </>
          ) : (
            <>
              {step.name} {step.version} by {step.publisher}; renders to{' '}
              <span className="mono">{step.digest.slice(0, 12)}</span>
            </>
          )
        }
      >
        <Select
          aria-label="Filled option sheet"
          placeholder="choose a sheet"
          value={step.sheet === '' ? null : keyOf(step.name, step.sheet)}
          onChange={choose}
          options={sheets.map(({ suite, version, sheet, digest }) => ({
            value: keyOf(suite, sheet),
            label: `${sheet}, ${suite} ${version}${digest === null ? ', does not fit its suite' : ''}`,
            disabled: digest === null,
          }))}
        />
      </Field>
    </div>
  );
}
