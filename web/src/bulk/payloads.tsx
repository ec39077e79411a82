/** A folder of payloads: each archive becomes a capture, named by its file. */
import { captureFileEndpoints } from '@vatline/contract/capture';
import { useSendForm } from '../api/send-form.ts';
import { Button, Input } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import { namedPayload } from '@vatline/core/package/bulk-list';
import { FileButton } from '../parts/file-button.tsx';
import { plural, size } from '../parts/format.ts';

interface Payload {
  readonly file: File;
  readonly name: string;
  readonly version: string;
  readonly result: string;
  readonly captureId?: string;
}

export function Payloads() {
  const sendForm = useSendForm(captureFileEndpoints.upload);
  const [publisher, setPublisher] = useState('');
  const [payloads, setPayloads] = useState<readonly Payload[]>([]);
  const [isSending, setSending] = useState(false);
  const change = (i: number, part: Partial<Payload>) =>
    setPayloads((all) => all.map((one, n) => (n === i ? { ...one, ...part } : one)));
  const send = async () => {
    setSending(true);
    for (const [i, { file, name, version, captureId }] of payloads.entries()) {
      if (captureId) continue;
      const sent = await sendForm({
        fields: { name, version, publisher },
        files: { payload: file },
        onProgress: (share) => change(i, { result: `sending, ${Math.round(share * 100)} %` }),
      });
      if ('problem' in sent) change(i, { result: sent.problem.faults[0]?.message ?? sent.problem.detail });
      else change(i, { result: 'captured', captureId: sent.answer.captureId });
    }
    setSending(false);
  };
  return (
    <>
      <p className="quiet">
        Archives as tar, tar.gz or ZIP; all of their content counts as new. Name and version come from the
        name of the file, and can be changed.
      </p>
      <div className="row" style={{ margin: '8px 0' }}>
        <Input
          style={{ width: 220 }}
          aria-label="Publisher of all"
          placeholder="publisher of all"
          value={publisher}
          onChange={(event) => setPublisher(event.target.value)}
        />
        <FileButton
          accept=".zip,.tar,.tgz,.gz"
          onFiles={(files) =>
            setPayloads(files.map((file) => ({ file, ...namedPayload(file.name), result: '' })))
          }
        >
          Choose payloads
        </FileButton>
        <Button
          type="primary"
          disabled={payloads.length === 0 || publisher.trim() === ''}
          loading={isSending}
          onClick={() => void send()}
        >
          Capture {plural(payloads.length, 'payload')}
        </Button>
      </div>
      {payloads.map((payload, i) => (
        <PayloadRow key={payload.file.name} payload={payload} onChange={(part) => change(i, part)} />
      ))}
    </>
  );
}

interface RowProps {
  readonly payload: Payload;
  readonly onChange: (part: Partial<Payload>) => void;
}

function PayloadRow({ payload: { file, name, version, result, captureId }, onChange }: RowProps) {
  return (
    <div className="bulk-payload">
      <Input
        aria-label={`Name of ${file.name}`}
        value={name}
        onChange={(event) => onChange({ name: event.target.value })}
      />
      <Input
        aria-label={`Version of ${file.name}`}
        value={version}
        onChange={(event) => onChange({ version: event.target.value })}
      />
      <span className="number">{size(file.size)}</span>
      {captureId ? (
        <Link to={`/packages/capture/${captureId}`}>{result}</Link>
      ) : (
        <span className={result.startsWith('sending') ? 'quiet' : 'trouble'}>{result}</span>
      )}
    </div>
  );
}
