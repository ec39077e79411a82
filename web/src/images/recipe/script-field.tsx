/** A script with its colours and the digest it is known by. */
import { lazy, Suspense } from 'react';
import type { scriptLanguages } from '@vatline/core/image/recipe';
import { textDigest } from '@vatline/core/text-digest';
import { plural } from '../../parts/format.ts';

const TextEditor = lazy(() => import('../../parts/text-editor.tsx'));

export type ScriptLanguage = (typeof scriptLanguages)[number];

interface Props {
  readonly text: string;
  readonly language: ScriptLanguage | undefined;
  readonly onChange: (text: string) => void;
}

export function ScriptField({ text, language = 'batch', onChange }: Props) {
  const digest = textDigest(text);
  return (
    <>
      <Suspense fallback={<p className="quiet">The editor is loading.</p>}>
        <TextEditor label="Script" language={language} text={text} height="130px" onChange={onChange} />
      </Suspense>
      <span className="script-note quiet small">
        <span>{plural(text === '' ? 0 : text.split('\n').length, 'line')}</span>
        <span title={digest}>
          SHA-256 <span className="mono">{digest.slice(0, 16)}</span>
        </span>
      </span>
    </>
  );
}
