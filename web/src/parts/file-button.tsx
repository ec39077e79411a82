import { Button } from 'antd';
import { useRef, type ReactNode } from 'react';

interface Props {
  /** Endings or media types, as the browser's file input takes them. */
  readonly accept: string;
  readonly onFile: (file: File) => void;
  readonly children: ReactNode;
}

/** A button that asks for a file. The same file may be chosen again after it was mended. */
export function FileButton({ accept, onFile, children }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button onClick={() => input.current?.click()}>{children}</Button>
      <input
        ref={input}
        type="file"
        hidden
        accept={accept}
        aria-label={String(children)}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = '';
          if (file) onFile(file);
        }}
      />
    </>
  );
}
