/** Brings in a version that was made elsewhere: its inventory, and its machine as OVF. */
import { imageFileEndpoints } from '@vatline/contract/image';
import { useSendForm } from '../../api/send-form.ts';
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { Problem } from '@vatline/contract/endpoint';
import type { LineDetail } from '@vatline/contract/image';
import { faultAt } from '../../api/problem.ts';
import { Field, ProblemNote } from '../../parts/field.tsx';

export function ImportVersion({ line }: { readonly line: LineDetail }) {
  const sendForm = useSendForm(imageFileEndpoints.import);
  const [files, setFiles] = useState<Record<string, File>>({});
  const [note, setNote] = useState('');
  const [sent, setSent] = useState<number>();
  const [problem, setProblem] = useState<Problem>();
  const [made, setMade] = useState<number>();
  const send = async () => {
    setProblem(undefined);
    setSent(0);
    const result = await sendForm({ params: { id: line.id }, fields: { note }, files, onProgress: setSent });
    setSent(undefined);
    if ('problem' in result) return setProblem(result.problem);
    setMade(result.answer.number);
  };
  const file = (label: string, name: string, hint: string) => (
    <Field label={label} fault={faultAt(problem, name)} hint={hint}>
      <input
        type="file"
        name={name}
        onChange={(event) => event.target.files?.[0] && setFiles({ ...files, [name]: event.target.files[0] })}
      />
    </Field>
  );
  return (
    <details className="import-version">
      <summary>A version made elsewhere</summary>
      <p className="quiet" style={{ margin: '8px 0' }}>
        On a machine without a driver: run the script of the recipe, then{' '}
        <code>vatline scan / --out inventory.jsonl</code>, and bring the inventory here.
      </p>
      <div className="fields">
        {file('Inventory', 'inventory', 'JSON Lines, as vatline scan writes it')}
        {file('Hardware', 'ovf', 'an OVF 1.1 descriptor; without it, the hardware of this line')}
        <Field label="Note">
          <Input value={note} onChange={(event) => setNote(event.target.value)} />
        </Field>
      </div>
      <ProblemNote problem={problem} shown={['inventory', 'ovf']} />
      <div className="row">
        <Button loading={sent !== undefined} onClick={() => void send()}>
          {sent === undefined ? 'Bring it in' : `Uploading, ${Math.round(sent * 100)} %`}
        </Button>
        {made !== undefined && (
          <span className="good" role="status">
            It is version {made} of this line.
          </span>
        )}
      </div>
    </details>
  );
}
