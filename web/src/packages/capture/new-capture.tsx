/** Begins a capture: on the practice packaging machine, or from two inventories and a payload. */
import { captureFileEndpoints } from '@vatline/contract/capture';
import { useSendForm } from '../../api/send-form.ts';
import { Button, Checkbox, Input, Select } from 'antd';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { Problem } from '@vatline/contract/endpoint';
import { packagesApi } from '../../api/packages.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { Field, ProblemNote } from '../../parts/field.tsx';

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
  const { data: installers = [] } = packagesApi.useInstallersQuery({});
  const [chosen, setChosen] = useState<string[]>([]);
  const [quiet, setQuiet] = useState(true);
  const [restarts, setRestarts] = useState(true);
  const [capture, { error, isLoading }] = packagesApi.useCaptureMutation();
  const problem = problemOf(error);
  const begin = async () => {
    const result = await capture({ body: { installers: chosen, quiet, restarts } });
    if (result.data) void navigate(`/packages/capture/${result.data.captureId}`);
  };
  const last = installers.find((row) => row.id === chosen.at(-1));
  return (
    <>
      <h2 className="section-title">On the practice packaging machine</h2>
      <Field
        label="Installers, in the order they run"
        fault={problem?.faults.find((fault) => fault.path.startsWith('installers'))?.message}
        hint={
          chosen.length > 1
            ? `The package is of ${last?.name ?? 'the last'}; what runs before it travels along, and each row tells who put it.`
            : 'More than one where the application brings what it needs.'
        }
      >
        <Select
          mode="multiple"
          showSearch
          optionFilterProp="label"
          placeholder="choose from its library"
          aria-label="Installers"
          value={chosen}
          onChange={setChosen}
          options={installers.map((row) => ({
            value: row.id,
            label: `${row.name} ${row.version}, ${row.files} files`,
          }))}
        />
      </Field>
      <div className="stack" style={{ marginBottom: 12 }}>
        <div>
          <Checkbox checked={quiet} onChange={(event) => setQuiet(event.target.checked)}>
            Switch off what writes by itself: search index, system updates
          </Checkbox>
        </div>
        <div>
          <Checkbox checked={restarts} onChange={(event) => setRestarts(event.target.checked)}>
            Restart where an installer asks for it
          </Checkbox>
        </div>
      </div>
      <ProblemNote problem={problem} shown={['installers', ...chosen.map((_id, i) => `installers.${i}`)]} />
      <Button type="primary" loading={isLoading} disabled={chosen.length === 0} onClick={() => void begin()}>
        Capture {chosen.length > 1 ? `${chosen.length} installers` : 'it'}
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
  const sendForm = useSendForm(captureFileEndpoints.upload);
  const send = async () => {
    setProblem(undefined);
    setSent(0);
    const result = await sendForm({ fields, files, onProgress: setSent });
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
        {file('Payload', 'payload', 'the folder as tar, tar.gz or ZIP, at most 8 GB')}
        {file(
          'Inventory before',
          'before',
          'JSON Lines, as vatline scan writes it; without both, all of the payload counts as new',
        )}
        {file('Inventory after', 'after', 'the same folder, after the installation')}
        {file('Registry export', 'registry', 'a .reg file with the values it sets; may be left out')}
      </div>
      <ProblemNote
        problem={problem}
        shown={['name', 'publisher', 'version', 'before', 'after', 'payload', 'registry']}
      />
      <Button loading={sent !== undefined} onClick={() => void send()}>
        {sent === undefined ? 'Upload and compare' : `Uploading, ${Math.round(sent * 100)} %`}
      </Button>
    </>
  );
}
