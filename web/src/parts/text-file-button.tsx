/** A button that asks for a file and reads its text; why a file was not read stands beside it. */
import { useState, type ReactNode } from 'react';
import { FileButton } from './file-button.tsx';
import { textOfFile } from './text-of-file.ts';

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
    const text = await textOfFile(file, mostBytes);
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
