/** A text in YAML, with what is wrong in it marked in the text and told below. */
import { lazy, Suspense, type ComponentProps } from 'react';
import { TextFaults } from './text-faults.tsx';

const TextEditor = lazy(() => import('./text-editor.tsx'));

interface Props extends ComponentProps<typeof TextFaults> {
  readonly label: string;
  /** As in CSS. */
  readonly height: string;
  readonly text: string;
  readonly onChange: (text: string) => void;
}

export function CheckedText({ faults, ...editor }: Props) {
  return (
    <>
      <Suspense fallback={<p className="quiet">The editor is loading.</p>}>
        <TextEditor language="yaml" faults={faults} {...editor} />
      </Suspense>
      {faults.length > 0 && (
        <div role="alert" className="text-faults">
          <TextFaults faults={faults} />
        </div>
      )}
    </>
  );
}
