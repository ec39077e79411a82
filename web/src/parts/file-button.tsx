import { Button } from 'antd';
import { useRef, type ReactNode } from 'react';

type Props = {
  /** Endings or media types, as the browser's file input takes them. */
  readonly accept: string;
  readonly children: ReactNode;
} & ({ readonly onFile: (file: File) => void } | { readonly onFiles: (files: readonly File[]) => void });

/** A button that asks for a file, or for several. The same file may be chosen again after it was mended. */
export function FileButton({ accept, children, ...on }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const give = (files: readonly File[]) => {
    const [first] = files;
    if ('onFiles' in on) on.onFiles(files);
    else if (first) on.onFile(first);
  };
  return (
    <>
      <Button onClick={() => input.current?.click()}>{children}</Button>
      <input
        ref={input}
        type="file"
        hidden
        multiple={'onFiles' in on}
        accept={accept}
        aria-label={String(children)}
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = '';
          if (files.length > 0) give(files);
        }}
      />
    </>
  );
}
