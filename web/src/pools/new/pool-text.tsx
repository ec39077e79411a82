/** The pool as text: the pool file, one to one with the fields, faults on their lines. */
import { Button } from 'antd';
import { lazy, Suspense, useState } from 'react';
import { readPoolFile, writePoolFile } from '@vatline/contract/pool/pool-file';
import type { TextFault } from '@vatline/contract/yaml-document';
import { imagesApi } from '../../api/images.ts';
import { TextFaults } from '../../parts/text-faults.tsx';
import { TextFileButton } from '../../parts/text-file-button.tsx';
import { download } from '../../parts/download.ts';
import { useAppDispatch, useAppSelector } from '../../shell/store.ts';
import { newPool, poolReplaced, textTyped } from './pool-draft.ts';

/** A pool with the longest script is well below it. */
const MOST_BYTES = 200_000;

const TextEditor = lazy(() => import('../../parts/text-editor.tsx'));

export default function PoolText() {
  const dispatch = useAppDispatch();
  const { draft, text } = useAppSelector(newPool);
  const { data: lines = [] } = imagesApi.useLinesQuery({});
  const [faults, setFaults] = useState<readonly TextFault[]>([]);
  const line = lines.find((row) => row.versions.some((version) => version.id === draft.imageVersionId));
  const number = line?.versions.find((version) => version.id === draft.imageVersionId)?.number;
  const written = text ?? writePoolFile(draft, line ? `${line.name} ${number ?? ''}` : '');
  const change = (next: string) => {
    dispatch(textTyped(next));
    const read = readPoolFile(next);
    setFaults(read.ok ? [] : read.error);
    if (read.ok) dispatch(poolReplaced(read.value));
  };
  return (
    <>
      <Suspense fallback={<p className="quiet">The editor is loading.</p>}>
        <TextEditor
          label="Pool as text"
          language="yaml"
          height="520px"
          text={written}
          faults={faults}
          onChange={change}
        />
      </Suspense>
      {faults.length > 0 && (
        <div role="alert" className="text-faults">
          <b>The answer beside is that of the last text without faults.</b>
          <TextFaults faults={faults} />
        </div>
      )}
      <div className="row" style={{ marginTop: 10 }}>
        <Button onClick={() => download(`${draft.name || 'pool'}.yaml`, written, 'application/yaml')}>
          Take it as a file
        </Button>
        <TextFileButton accept=".yaml,.yml" mostBytes={MOST_BYTES} onText={change}>
          Read a file
        </TextFileButton>
      </div>
    </>
  );
}
