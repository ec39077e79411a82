/** Signing, verifying and offering a version: the next of these is the one that stands out. */
import { Button, Select } from 'antd';
import { useState } from 'react';
import type { Certificate, PackageVersion } from '@vatline/contract/package';
import { afterDeed } from '@vatline/core/package/version-state';
import { packagesApi } from '../../api/packages.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { plural } from '../../parts/format.ts';

type NextStep = 'sign' | 'verify' | 'offer' | 'none';

export function SigningBar({ version }: { version: PackageVersion }) {
  const { data: certificates = [] } = packagesApi.useCertificatesQuery({});
  const [chosen, setChosen] = useState<string>();
  const [sign, signing] = packagesApi.useSignMutation();
  const [verify, verifying] = packagesApi.useVerifyMutation();
  const [setState, setting] = packagesApi.useSetPackageStateMutation();
  const [offer, offering] = packagesApi.useOfferMutation();
  const params = { id: version.id };
  const mayOffer = afterDeed(version.state, 'offer');
  const next = nextStep(version);
  const own = chosen ?? bestOf(certificates)?.id;
  const emphasis = (step: NextStep) => (next === step ? ({ type: 'primary' } as const) : {});
  return (
    <>
      <div className="signing-bar">
        <Select
          size="small"
          aria-label="Certificate to sign with"
          placeholder="certificate"
          value={own ?? null}
          onChange={(value) => setChosen(value ?? undefined)}
          options={certificates.map((one) => ({
            value: one.id,
            label: `${one.name}, ${validFor(one)}`,
            disabled: one.fault !== '',
          }))}
        />
        <Button
          size="small"
          {...emphasis('sign')}
          disabled={!own}
          loading={signing.isLoading}
          onClick={() => own && void sign({ params, body: { certificateId: own } })}
        >
          {version.signed ? 'Sign again' : 'Sign'}
        </Button>
        <Button
          size="small"
          {...emphasis('verify')}
          loading={verifying.isLoading}
          onClick={() => void verify({ params })}
        >
          Verify
        </Button>
        {version.state === 'live' ? (
          <Button size="small" onClick={() => void setState({ params, body: { state: 'held' } })}>
            Hold
          </Button>
        ) : (
          <Button
            size="small"
            {...emphasis('offer')}
            disabled={!mayOffer.ok}
            title={mayOffer.ok ? '' : mayOffer.error[0]?.message}
            loading={offering.isLoading || version.activeJob?.kind === 'offer'}
            onClick={() => void offer({ params, body: {} })}
          >
            Offer to hosts
          </Button>
        )}
        {(version.state === 'live' || version.state === 'held') && (
          <Button size="small" onClick={() => void setState({ params, body: { state: 'withdrawn' } })}>
            Withdraw
          </Button>
        )}
      </div>
      <ProblemNote problem={problemOf(signing.error ?? verifying.error ?? setting.error ?? offering.error)} />
    </>
  );
}

function nextStep(version: PackageVersion): NextStep {
  if (version.state === 'verified') return 'offer';
  if (version.state !== 'draft') return 'none';
  return version.signed ? 'verify' : 'sign';
}

/** The one that most pools trust, and of those the one that lasts longest. */
function bestOf(certificates: readonly Certificate[]): Certificate | undefined {
  return certificates
    .filter((one) => one.fault === '')
    .sort((a, b) => b.trustedBy.length - a.trustedBy.length || b.validTo - a.validTo)[0];
}

export function validFor({ validity }: Certificate): string {
  if (validity.state === 'valid') return `${plural(validity.days, 'day')} left`;
  return validity.state === 'expired' ? 'expired' : 'not valid yet';
}
