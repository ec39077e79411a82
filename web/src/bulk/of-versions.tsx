/** Something done to package versions that are chosen from all there are. */
import { Button, Checkbox, Select } from 'antd';
import { useState } from 'react';
import type { BulkRequest } from '@vatline/contract/bulk';
import type { PackageVersion } from '@vatline/contract/package';
import { containerFormats, formatNames, type ContainerFormat } from '@vatline/core/container/formats';
import { packagesApi } from '../api/packages.ts';
import { useEstateTime } from '../shell/clock.ts';
import { longDay, plural } from '../parts/format.ts';
import { validFor } from '../packages/trust/signing-bar.tsx';
import { useAllPackages } from '../parts/all-packages.ts';

interface Props {
  readonly action: 'sign' | 'convert';
  readonly isBusy: boolean;
  readonly onBegin: (request: BulkRequest) => void;
}

export function OfVersions({ action, isBusy, onBegin }: Props) {
  const { zone } = useEstateTime();
  const packages = useAllPackages() ?? [];
  const { data: certificates = [] } = packagesApi.useCertificatesQuery({});
  const [certificate, setCertificate] = useState<string>();
  const [format, setFormat] = useState<ContainerFormat>('vhdx');
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const versions = packages.flatMap((row) => row.versions).sort((a, b) => endOf(a) - endOf(b));
  const can = action === 'convert' || certificate !== undefined;
  const begin = () => {
    const versionIds = [...chosen];
    if (action === 'convert') onBegin({ action, format, versionIds });
    else if (certificate) onBegin({ action, certificateId: certificate, versionIds });
  };
  const toggle = (id: string, on: boolean) =>
    setChosen(on ? [...chosen, id] : chosen.filter((one) => one !== id));
  return (
    <>
      <div className="row" style={{ marginBottom: 8 }}>
        {action === 'sign' ? (
          <Select
            style={{ width: 320 }}
            aria-label="Certificate"
            placeholder="certificate to sign with"
            value={certificate ?? null}
            onChange={(id) => setCertificate(id ?? undefined)}
            options={certificates.map((one) => ({
              value: one.id,
              label: `${one.name}, ${validFor(one)}`,
              disabled: one.fault !== '',
            }))}
          />
        ) : (
          <Select
            style={{ width: 220 }}
            aria-label="Format"
            value={format}
            onChange={setFormat}
            options={containerFormats.map((value) => ({ value, label: formatNames[value] }))}
          />
        )}
        <Button type="primary" disabled={!can || chosen.length === 0} loading={isBusy} onClick={begin}>
          {action === 'sign' ? 'Sign' : 'Convert'} {plural(chosen.length, 'version')}
        </Button>
        <Button
          onClick={() => setChosen(chosen.length === versions.length ? [] : versions.map((one) => one.id))}
        >
          {chosen.length === versions.length ? 'None of them' : 'All of them'}
        </Button>
      </div>
      <div className="bulk-versions" tabIndex={0} role="group" aria-label="Versions">
        {versions.map((version) => (
          <div key={version.id} className="bulk-version">
            <Checkbox
              checked={chosen.includes(version.id)}
              onChange={(event) => toggle(version.id, event.target.checked)}
            >
              {version.name} {version.version}
            </Checkbox>
            <span className="quiet">
              {version.containers.map((one) => formatNames[one.format]).join(', ')}
            </span>
            <span className={version.signed ? '' : 'attention'}>
              {version.signed ? `signed until ${longDay(version.signed.validTo, zone)}` : 'signed by nobody'}
            </span>
          </div>
        ))}
      </div>
    </>
  );
}

/** Those that run out first stand first. */
function endOf(version: PackageVersion): number {
  return version.signed?.validTo ?? 0;
}
