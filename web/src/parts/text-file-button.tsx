/** A button that asks for a file and reads its text; why a file was not read stands beside it. */
import { useState, type ReactNode } from 'react';
import { FileButton } from './file-button.tsx';
import { size } from './format.ts';

interface Props {
  /** Endings or media types, as the browser's file input takes them. */
  readonly accept: string;
  /** A larger file is no file of this kind, and reading it would stop the page. */
  readonly mostBytes: number;
  readonly onText: (text: string, name: string) => void;
  readonly children: ReactNode;
}

export function TextFileButton({ accept, mostBytes, onText, children }: Props) {
  const [fault, setFault] = useState('');
  const read = async (file: File) => {
    const text = await textOf(file, mostBytes);
    setFault(text.ok ? '' : text.error);
    if (text.ok) onText(text.value, file.name);
  };
  return (
    <>
      <FileButton accept={accept} onFile={(file) => void read(file)}>
        {children}
      </FileButton>
      {fault && (
        <span className="field-fault" role="alert">
          {fault}
        </span>
      )}
    </>
  );
}

type Read = { readonly ok: true; readonly value: string } | { readonly ok: false; readonly error: string };

async function textOf(file: File, mostBytes: number): Promise<Read> {
  if (file.size > mostBytes)
    return {
      ok: false,
      error: `${file.name} is larger than ${size(mostBytes)} and was not read`,
    };
  try {
    return { ok: true, value: await file.text() };
  } catch {
    // It was moved or changed since it was chosen, or may not be read.
    return { ok: false, error: `${file.name} could not be read; choose it again` };
  }
}
