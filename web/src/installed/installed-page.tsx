/** Installed delivery: what agents install on hosts, what that would do, and what came of it. */
import { installationFileEndpoints } from '@vatline/contract/installation';
import { useSendForm } from '../api/send-form.ts';
import '../packages/packages.css';
import './installed.css';
import { Button, Select } from 'antd';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import type { Problem } from '@vatline/contract/endpoint';
import type { InstallationInput, InstallationRow, InstallForecast } from '@vatline/contract/installation';
import { installedApi } from '../api/installed.ts';
import { packagesApi } from '../api/packages.ts';
import { faultAt, problemOf } from '../api/problem.ts';
import { Station } from '../shell/station.tsx';
import { Field, ProblemNote } from '../parts/field.tsx';
import { FileButton } from '../parts/file-button.tsx';
import { plural, size } from '../parts/format.ts';
import { JobCard } from '../parts/job.tsx';
import { KeptMeanwhile } from '../parts/kept-meanwhile.tsx';
import { CapturePackage, usePackageRack } from '../packages/packages-page.tsx';
import { ForecastAnswer } from './install-forecast.tsx';
import { InstallReportList } from './install-report.tsx';
import { InstallationForm } from './installation-form.tsx';
import { TakeAway } from './take-away.tsx';
import { useForecast } from './use-forecast.ts';

export function InstalledPage() {
  const { items } = usePackageRack();
  const { id } = useParams();
  const { data: rows, error } = installedApi.useInstallationsQuery({});
  const open = rows?.find((row) => row.id === id) ?? (id === 'new' ? undefined : rows?.[0]);
  return (
    <Station items={items} action={<CapturePackage />}>
      <ProblemNote problem={problemOf(error)} />
      {rows && (open ? <Bench key={open.id} row={open} rows={rows} /> : <NewInstallation rows={rows} />)}
    </Station>
  );
}

function Tabs({ rows, open }: { rows: readonly InstallationRow[]; open?: InstallationRow }) {
  return (
    <nav className="tabs" aria-label="Installations">
      {rows.map((row) => (
        <Link
          key={row.id}
          to={`/packages/installed/${row.id}`}
          aria-current={row === open ? 'page' : undefined}
        >
          {row.installation.name || 'without a name'} {row.installation.version}
        </Link>
      ))}
      <Link to="/packages/installed/new" aria-current={open ? undefined : 'page'}>
        New
      </Link>
    </nav>
  );
}

function NewInstallation({ rows }: { rows: readonly InstallationRow[] }) {
  const navigate = useNavigate();
  const { data: installers = [] } = packagesApi.useInstallersQuery({});
  const [installer, setInstaller] = useState<string>();
  const [create, { error, isLoading }] = installedApi.useCreateInstallationMutation();
  const problem = problemOf(error);
  const begin = async (from: string | null) => {
    const result = await create({ body: { installer: from } });
    if (result.data) void navigate(`/packages/installed/${result.data.id}`);
  };
  return (
    <section className="work" aria-label="New installation">
      <h1 className="answer">What should agents install?</h1>
      <p className="under-answer">
        For what no container can bring: drivers, services, applications that must be on the disk of a host.
      </p>
      <Tabs rows={rows} />
      <div style={{ maxWidth: 520, marginTop: 12 }}>
        <Field label="From the library of the packaging machine" fault={faultAt(problem, 'installer')}>
          <Select
            showSearch
            optionFilterProp="label"
            aria-label="Installer"
            placeholder="choose an installer"
            value={installer ?? null}
            onChange={(id) => setInstaller(id ?? undefined)}
            options={installers.map((row) => ({ value: row.id, label: `${row.name} ${row.version}` }))}
          />
        </Field>
        <div className="row">
          <Button
            type="primary"
            disabled={!installer}
            loading={isLoading}
            onClick={() => void begin(installer ?? null)}
          >
            Take it from there
          </Button>
          <Button onClick={() => void begin(null)}>Begin with a folder of my own</Button>
        </div>
        <ProblemNote problem={problem} shown={['installer']} />
      </div>
    </section>
  );
}

function Bench({ row, rows }: { row: InstallationRow; rows: readonly InstallationRow[] }) {
  const params = { id: row.id };
  const [own, setOwn] = useState<InstallationInput>(row.installation);
  const [basedOn, setBasedOn] = useState(row.revision);
  const { forecast, problem: unread } = useForecast(row.id, own);
  const [keep, keeping] = installedApi.useKeepInstallationMutation();
  const [begin, beginning] = installedApi.useBeginInstallationMutation();
  const problem = problemOf(beginning.error ?? keeping.error);
  const isChanged = JSON.stringify(own) !== JSON.stringify(row.installation);
  const save = async () => {
    const { data } = await keep({ params, body: { ...own, basedOn } });
    if (data) setBasedOn(data.revision);
    return data !== undefined;
  };
  const go = async () => {
    if (await save()) await begin({ params });
  };
  const takeKept = () => {
    setOwn(row.installation);
    setBasedOn(row.revision);
    keeping.reset();
  };
  const faults = [
    ...(forecast?.faults ?? []),
    ...(unread?.faults ?? []),
    ...(problem?.faults ?? []).filter((fault) => fault.path !== 'basedOn'), // said beside its way out
  ];
  return (
    <div className="bench-columns">
      <section className="work" aria-label={own.name}>
        <h1 className="answer">{headline(row, own, forecast)}</h1>
        <p className="under-answer">
          Agents look at their next check whether it applies and is not there already, run it, and report.
        </p>
        <Tabs rows={rows} open={row} />
        {row.activeJob && <JobCard job={row.activeJob} open={false} />}
        <InstallReportList id={row.id} />
        <InstallationForm installation={own} faults={faults} onChange={setOwn} />
      </section>
      <aside className="evidence" aria-label="Forecast">
        {forecast && <ForecastAnswer forecast={forecast} />}
        <h2>Its source</h2>
        <Source row={row} fault={faultAt(problem, 'source')} />
        <div className="row" style={{ marginTop: 14 }}>
          <Button
            type="primary"
            loading={beginning.isLoading || row.activeJob !== null}
            disabled={faults.length > 0 && !problem}
            onClick={() => void go()}
          >
            Give it to the agents
          </Button>
          {isChanged && (
            <Button loading={keeping.isLoading} onClick={() => void save()}>
              Keep the changes
            </Button>
          )}
        </div>
        <Remaining faults={faults} />
        <ProblemNote problem={problem} shown={faults.map((fault) => fault.path)} />
        <KeptMeanwhile problem={problem} basedOn={basedOn} kept={row.revision} onTake={takeKept} />
        <TakeAway row={row} isChanged={isChanged} />
        <Delete row={row} />
      </aside>
    </div>
  );
}

function headline(
  row: InstallationRow,
  own: InstallationInput,
  forecast: InstallForecast | undefined,
): string {
  const name = `${own.name || 'An application'} ${own.version}`.trim();
  const counts = Object.entries(row.counts);
  if (counts.length > 0) return `${name}: ${counts.map(([state, hosts]) => `${hosts} ${state}`).join(', ')}.`;
  if (!forecast) return `${name}, installed by agents.`;
  const wanted = forecast.hosts.filter((host) => host.state === 'to install').length;
  return forecast.hosts.length === 0
    ? `${name} has no hosts yet.`
    : `${name} would be installed on ${wanted} of ${plural(forecast.hosts.length, 'host')}.`;
}

/** Faults stand at their fields; here is how many, since fields may be out of sight. */
function Remaining({ faults }: { faults: readonly { readonly path: string; readonly message: string }[] }) {
  if (faults.length === 0) return null;
  return (
    <p className="attention" style={{ marginTop: 6 }}>
      {plural(faults.length, 'thing')} to mend first: {faults[0]?.path} {faults[0]?.message}.
    </p>
  );
}

function Source({ row, fault }: { row: InstallationRow; fault: string | undefined }) {
  const sendForm = useSendForm(installationFileEndpoints.source);
  const [problem, setProblem] = useState<Problem>();
  const [sent, setSent] = useState<number>();
  const send = async (source: File) => {
    setSent(0);
    const result = await sendForm({ params: { id: row.id }, files: { source }, onProgress: setSent });
    setSent(undefined);
    setProblem('problem' in result ? result.problem : undefined);
  };
  return (
    <>
      <p>
        {row.archive
          ? `${plural(row.archive.files, 'file')} in one archive of ${size(row.archive.bytes)}`
          : 'None yet: give the folder that holds its setup, as tar or ZIP.'}
      </p>
      {row.archive && <p className="mono quiet clip">sha256:{row.archive.digest}</p>}
      <FileButton accept=".zip,.tar,.tgz,.gz" onFile={(file) => void send(file)}>
        {sent === undefined ? 'Choose an archive' : `Uploading, ${Math.round(sent * 100)} %`}
      </FileButton>
      {(fault ?? faultAt(problem, 'source')) && (
        <p className="field-fault" role="alert">
          It {fault ?? faultAt(problem, 'source')}.
        </p>
      )}
      <ProblemNote problem={problem} shown={['source']} />
    </>
  );
}

function Delete({ row }: { row: InstallationRow }) {
  const navigate = useNavigate();
  const [remove, { error }] = installedApi.useRemoveInstallationMutation();
  const go = async () => {
    const result = await remove({ params: { id: row.id } });
    if (!('error' in result)) void navigate('/packages/installed');
  };
  return (
    <>
      <button type="button" className="plain-button" style={{ marginTop: 14 }} onClick={() => void go()}>
        delete it; what was installed stays
      </button>
      <ProblemNote problem={problemOf(error)} />
    </>
  );
}
