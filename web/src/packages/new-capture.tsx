/** Begins a capture: on the practice packaging machine, or from two inventories and a payload. */
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { Problem } from '@vatline/contract/endpoint';
import { api, faultAt, problemOf } from '../shell/api.ts';
import { Field, ProblemNote } from '../parts/field.tsx';
import { sendForm } from '../shell/send-form.ts';

export function NewCapture() {
  return (
    <section className="work" aria-label="Capture a package" style={{ maxWidth: 760 }}>
      <h1 className="answer">What does the installer change?</h1>
      <p className="under-answer">
        A clean machine is looked at before and after; what lies between, less the noise, is the package.
      </p>
      <OnPracticeMachine />
      <FromFiles />
    </section>
  );
}

function OnPracticeMachine() {
  const navigate = useNavigate();
  const { data: installers = [] } = api.useInstallersQuery({});
  const [installer, setInstaller] = useState<string | undefined>();
  const [capture, { error, isLoading }] = api.useCaptureMutation();
  const problem = problemOf(error);
  const begin = async () => {
    const result = await capture({ body: { installer: installer ?? '' } });
    if (result.data) void navigate(`/packages/capture/${result.data.captureId}`);
  };
  return (
    <>
      <h2 className="section-title">On the practice packaging machine</h2>
      <Field label="Installer" fault={faultAt(problem, 'installer')}>
        <Select
          showSearch
          optionFilterProp="label"
          placeholder="choose one of its library"
          aria-label="Installer"
          value={installer ?? null}
          onChange={(id) => setInstaller(id ?? undefined)}
          options={installers.map((row) => ({
            value: row.id,
            label: `${row.name} ${row.version}, ${row.files} files`,
          }))}
        />
      </Field>
      <ProblemNote problem={problem} shown={['installer']} />
      <Button type="primary" loading={isLoading} onClick={() => void begin()}>
        Capture it
      </Button>
    </>
  );
}

function FromFiles() {
  const navigate = useNavigate();
  const [fields, setFields] = useState({ name: '', publisher: '', version: '' });
  const [files, setFiles] = useState<Record<string, File>>({});
  const [sent, setSent] = useState<number | undefined>();
  const [problem, setProblem] = useState<Problem | undefined>();
  const send = async () => {
    setProblem(undefined);
    setSent(0);
    const result = await sendForm<{ captureId: string }>('/captures/upload', fields, files, setSent);
    setSent(undefined);
    if ('problem' in result) setProblem(result.problem);
    else void navigate(`/packages/capture/${result.answer.captureId}`);
  };
  const text = (label: string, name: keyof typeof fields) => (
    <Field label={label} fault={faultAt(problem, name)}>
      <Input
        value={fields[name]}
        onChange={(event) => setFields({ ...fields, [name]: event.target.value })}
      />
    </Field>
  );
  const file = (label: string, name: string, hint: string) => (
    <Field label={label} fault={faultAt(problem, name)} hint={hint} wide>
      <input
        type="file"
        name={name}
        onChange={(event) => event.target.files?.[0] && setFiles({ ...files, [name]: event.target.files[0] })}
      />
    </Field>
  );
  return (
    <>
      <h2 className="section-title" style={{ marginTop: 28 }}>
        From a machine of your own
      </h2>
      <p className="quiet" style={{ marginBottom: 10 }}>
        There: <code>vatline scan DIR --out before.jsonl</code>, install,{' '}
        <code>vatline scan DIR --out after.jsonl</code>, and an archive of DIR.
      </p>
      <div className="fields">
        {text('Name', 'name')}
        {text('Publisher', 'publisher')}
        {text('Version', 'version')}
        {file('Inventory before', 'before', 'JSON Lines, as vatline scan writes it')}
        {file('Inventory after', 'after', 'the same folder, after the installation')}
        {file('Payload', 'payload', 'the folder as tar, tar.gz or ZIP, at most 8 GB')}
      </div>
      <ProblemNote problem={problem} shown={['name', 'publisher', 'version', 'before', 'after', 'payload']} />
      <Button loading={sent !== undefined} onClick={() => void send()}>
        {sent === undefined ? 'Upload and compare' : `Uploading, ${Math.round(sent * 100)} %`}
      </Button>
    </>
  );
}
