/** A field of the manifest; while its value is a guess it says from where, and can be confirmed. */
import type { ReactNode } from 'react';
import { Field } from '../../parts/field.tsx';
import type { Draft } from './use-draft.ts';

export interface GuessedFieldProps {
  readonly draft: Draft;
  /** Path in the manifest. */
  readonly path: string;
  readonly label: string;
  readonly fault?: string | undefined;
  readonly wide?: boolean;
  readonly children: ReactNode;
}

export function GuessedField({ draft, path, label, fault, wide = false, children }: GuessedFieldProps) {
  return (
    <div className={wide ? 'guessed wide' : 'guessed'}>
      <Field label={label} fault={fault} wide={wide}>
        {children}
      </Field>
      <GuessMark draft={draft} path={path} label={label} />
    </div>
  );
}

export function GuessMark({ draft, path, label }: Pick<GuessedFieldProps, 'draft' | 'path' | 'label'>) {
  const source = draft.guesses[path];
  if (source === undefined) return null;
  return (
    <p className="guess" title={source}>
      <span className="clip">guessed from {source}</span>
      <button
        type="button"
        className="plain-button"
        aria-label={`Confirm ${label}`}
        onClick={() => draft.confirm(path)}
      >
        confirm
      </button>
    </p>
  );
}
