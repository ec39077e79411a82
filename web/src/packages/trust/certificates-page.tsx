/** The certificates that containers are signed with: how long each lasts, and who trusts it. */
import { packageFileEndpoints } from '@vatline/contract/package';
import { useSendForm } from '../../api/send-form.ts';
import '../packages.css';
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { Problem } from '@vatline/contract/endpoint';
import type { Certificate } from '@vatline/contract/package';
import { packagesApi } from '../../api/packages.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { Station } from '../../shell/station.tsx';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { FileButton } from '../../parts/file-button.tsx';
import { longDay, plural } from '../../parts/format.ts';
import { CapturePackage, usePackageRack } from '../packages-page.tsx';
import { validFor } from './signing-bar.tsx';

export function CertificatesPage() {
  const { items } = usePackageRack();
  const { data: certificates } = packagesApi.useCertificatesQuery({});
  return (
    <Station items={items} action={<CapturePackage />}>
      <div className="bench-columns">
        <section className="work" aria-label="Signing certificates">
          {certificates && <h1 className="answer">{headline(certificates)}</h1>}
          <p className="under-answer">
            A host attaches a container only when its signature leads to a certificate that the host trusts.
            Keys are kept encrypted on the server and never sent here.
          </p>
          {certificates &&
            byUrgency(certificates).map((certificate) => (
              <CertificateCard key={certificate.id} certificate={certificate} />
            ))}
        </section>
        <aside className="evidence" aria-label="Bring in a certificate">
          <BringIn />
        </aside>
      </div>
    </Station>
  );
}

const isOfUse = (one: Certificate) => one.fault === '' && one.trustedBy.length > 0;

/** Those that can sign for hosts first, the one that runs out next before all others. */
function byUrgency(certificates: readonly Certificate[]): Certificate[] {
  return [...certificates].sort((a, b) => Number(isOfUse(b)) - Number(isOfUse(a)) || a.validTo - b.validTo);
}

function headline(certificates: readonly Certificate[]): string {
  if (certificates.length === 0) return 'There is no certificate to sign with yet.';
  const good = certificates.filter(isOfUse);
  const [ending] = byUrgency(good).filter((one) => one.validity.warning !== undefined);
  const first = `${good.length} of ${plural(certificates.length, 'certificate')} can sign for hosts`;
  return ending
    ? `${first}; ${ending.name} runs out in ${plural(ending.validity.days, 'day')}.`
    : `${first}.`;
}

function CertificateCard({ certificate }: { certificate: Certificate }) {
  const { zone } = useEstateTime();
  const [remove, { error }] = packagesApi.useDeleteCertificateMutation();
  const { name, validity, trustedBy, notTrustedBy } = certificate;
  const tone = certificate.fault ? 'trouble' : validity.warning ? 'attention' : 'good';
  return (
    <section className="container-card" aria-label={name}>
      <div className="spread">
        <span>
          <b>{name}</b> <span className={tone}>{validFor(certificate)}</span>
        </span>
        <Button size="small" onClick={() => void remove({ params: { id: certificate.id } })}>
          Delete
        </Button>
      </div>
      {certificate.fault && <p className="trouble">This certificate {certificate.fault}.</p>}
      <dl className="facts">
        <dt>For</dt>
        <dd>{certificate.subject}</dd>
        <dt>From</dt>
        <dd>{certificate.issuer === certificate.subject ? 'itself' : certificate.issuer}</dd>
        <dt>Valid</dt>
        <dd>
          {longDay(certificate.validFrom, zone)} to {longDay(certificate.validTo, zone)}
        </dd>
        <dt>Trusted by</dt>
        <dd>
          {trustedBy.length === 0 ? (
            <span className="trouble">no pool: its hosts would refuse what it signs</span>
          ) : notTrustedBy.length === 0 ? (
            `the hosts of all ${plural(trustedBy.length, 'pool')}`
          ) : (
            `${trustedBy.join(', ')}; not by ${notTrustedBy.join(', ')}`
          )}
        </dd>
        <dt>Signed</dt>
        <dd>{plural(certificate.signed, 'package version')}</dd>
        <dt>Key</dt>
        <dd>
          {certificate.key}; serial number <span className="mono">{certificate.serial}</span>
        </dd>
        <dt>Fingerprint</dt>
        <dd className="mono">{certificate.fingerprint}</dd>
      </dl>
      <ProblemNote problem={problemOf(error)} />
    </section>
  );
}

function BringIn() {
  const sendForm = useSendForm(packageFileEndpoints.bringCertificate);
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const [file, setFile] = useState<File>();
  const [problem, setProblem] = useState<Problem>();
  const [isSending, setSending] = useState(false);
  const send = async () => {
    setSending(true);
    const sent = await sendForm({ fields: { name, password }, files: file ? { file } : {} });
    setSending(false);
    setProblem('problem' in sent ? sent.problem : undefined);
    if ('problem' in sent) return;
    setName('');
    setPassword('');
    setFile(undefined);
  };
  return (
    <>
      <h2>Bring in a certificate</h2>
      <Field label="Name" fault={faultAt(problem, 'name')} hint="how it is called here">
        <Input value={name} onChange={(event) => setName(event.target.value)} />
      </Field>
      <Field label="File" fault={faultAt(problem, 'file')} hint="PKCS #12, or PEM with its key">
        <span className="row">
          <FileButton accept=".p12,.pfx,.pem" onFile={setFile}>
            Choose a file
          </FileButton>
          <span className="quiet">{file?.name}</span>
        </span>
      </Field>
      <Field label="Password" fault={faultAt(problem, 'password')}>
        <Input.Password
          autoComplete="off"
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
      </Field>
      <ProblemNote problem={problem} shown={['name', 'file', 'password']} />
      <Button type="primary" block loading={isSending} onClick={() => void send()}>
        Bring it in
      </Button>
    </>
  );
}
