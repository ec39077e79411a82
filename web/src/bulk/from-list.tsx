/** A list as CSV, checked line by line as it is written. */
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { BulkRequest } from '@vatline/contract/bulk';
import { parseBulkList } from '@vatline/core/package/bulk-list';
import { TextFileButton } from '../parts/text-file-button.tsx';
import { plural } from '../parts/format.ts';

/** As many rows as may be sent at once, each of its cells as long as it may be. */
const MOST_LIST_BYTES = 5e6;

interface Props {
  readonly action: 'draft' | 'assign';
  readonly isBusy: boolean;
  readonly onBegin: (request: BulkRequest) => void;
}

const examples = {
  draft: 'name,version\nZinnet Browser,141.0\nOstrand Forms,3.1\nDockray Scan,3.4\n',
  assign: 'package,group,pool\nYarnspell Check,Branch staff,desk-staff\nPennisk Viewer,Office,desk-staff\n',
} as const;

export function FromList({ action, isBusy, onBegin }: Props) {
  const [text, setText] = useState<string>(examples[action]);
  const draft = action === 'draft' ? parseBulkList(text, ['name', 'version']) : undefined;
  const assign = action === 'assign' ? parseBulkList(text, ['package', 'group', 'pool']) : undefined;
  const read = draft ?? assign;
  const begin = () => {
    if (draft?.ok) onBegin({ action: 'draft', rows: draft.value.map((line) => line.values) });
    if (assign?.ok) onBegin({ action: 'assign', rows: assign.value.map((line) => line.values) });
  };
  return (
    <div className="bulk-list">
      <p className="quiet">
        {action === 'draft'
          ? 'Each is captured on the practice packaging machine, and packed with what was guessed; its updater is switched off.'
          : 'Each group is assigned to a package on a pool.'}
      </p>
      <Input.TextArea
        aria-label="List"
        className="mono"
        autoSize={{ minRows: 4, maxRows: 12 }}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      {read && !read.ok && (
        <div role="alert" className="text-faults">
          {read.error.slice(0, 5).map((fault) => (
            <div key={fault.path}>
              {fault.path} {fault.message}
            </div>
          ))}
        </div>
      )}
      <div className="row" style={{ marginTop: 8 }}>
        <Button type="primary" disabled={!read?.ok} loading={isBusy} onClick={begin}>
          {action === 'draft' ? 'Make' : 'Assign'} {read?.ok ? plural(read.value.length, 'row') : ''}
        </Button>
        <TextFileButton accept=".csv,.txt" mostBytes={MOST_LIST_BYTES} onText={setText}>
          Read a file
        </TextFileButton>
      </div>
    </div>
  );
}
