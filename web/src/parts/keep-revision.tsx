/** What changes and why, and the button that keeps it as the next revision. */
import { Button, Input } from 'antd';
import { useState } from 'react';

interface Props {
  /** The one that it would be. */
  readonly revision: number;
  readonly isKeeping: boolean;
  readonly disabled: boolean;
  readonly onKeep: (note: string) => void;
  /** Back to what is kept; left out where nothing is yet. */
  readonly onDrop: (() => void) | undefined;
}

export function KeepRevision({ revision, isKeeping, disabled, onKeep, onDrop }: Props) {
  const [note, setNote] = useState('');
  return (
    <div className="row" style={{ marginTop: 10 }}>
      <Input
        style={{ width: 240 }}
        aria-label="What changes and why"
        placeholder="what changes, and why"
        value={note}
        onChange={(event) => setNote(event.target.value)}
      />
      <Button type="primary" loading={isKeeping} disabled={disabled} onClick={() => onKeep(note)}>
        Keep as revision {revision}
      </Button>
      {onDrop && <Button onClick={onDrop}>Drop the changes</Button>}
    </div>
  );
}
