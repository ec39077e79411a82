/** Whether the file shares carry what pools ask of them, and what that does to signing in. */
import '../packages.css';
import { Button } from 'antd';
import { useState } from 'react';
import type { ShareDemandFacts } from '@vatline/contract/share';
import { SPARE, type TierAdvice } from '@vatline/core/package/share-sizing';
import { packagesApi } from '../../api/packages.ts';
import { problemOf } from '../../api/problem.ts';
import { Station } from '../../shell/station.tsx';
import { ProblemNote } from '../../parts/field.tsx';
import { Finding } from '../../parts/finding.tsx';
import { How } from '../../parts/how.tsx';
import { count, plural, size } from '../../parts/format.ts';
import { CapturePackage, usePackageRack } from '../packages-page.tsx';
import { adviceOn, shareInputDefaults, signInRows, type ShareInputs } from './share-model.ts';
import { ShareChart } from './share-chart.tsx';
import { ShareInputFields } from './share-inputs.tsx';
import { SignInTable } from './sign-in-table.tsx';

export function SharesPage() {
  const { items } = usePackageRack();
  const { data: facts, error } = packagesApi.useShareDemandQuery({});
  const [inputs, setInputs] = useState<ShareInputs>(shareInputDefaults);
  return (
    <Station items={items} action={<CapturePackage />}>
      <ProblemNote problem={problemOf(error)} />
      {facts && <SharesBench facts={facts} inputs={inputs} onInputs={setInputs} />}
    </Station>
  );
}

interface BenchProps {
  readonly facts: ShareDemandFacts;
  readonly inputs: ShareInputs;
  readonly onInputs: (inputs: ShareInputs) => void;
}

function SharesBench({ facts, inputs, onInputs }: BenchProps) {
  const advice = adviceOn(facts, inputs);
  const rows = signInRows(facts, inputs, advice);
  return (
    <div className="bench-columns">
      <section className="work" aria-label="File shares">
        <h1 className="answer">{headline(advice)}</h1>
        <p className="under-answer">
          {plural(facts.versionBytes.length, 'container')} take {size(advice.capacityBytes)} with growth;{' '}
          {count(Math.round(advice.operations[advice.peakHour] ?? 0))} reads a second in the busiest minute of{' '}
          {hour(advice.peakHour)}.{' '}
          <HowWorkedOut scale={Math.max(...facts.shares.map((share) => share.scale))} />
        </p>
        <ShareChart advice={advice} limits={facts.shares} steady={inputs.steadyOperations} />
        <Tiers advice={advice} facts={facts} />
        <h2 className="section-title">How long does signing in take?</h2>
        <SignInTable rows={rows} />
      </section>
      <aside className="evidence" aria-label="Rights and assumptions">
        <h2>Who may do what</h2>
        {facts.shares.map((share) => (
          <Rights key={share.name} share={share} />
        ))}
        <Measured facts={facts} />
        <h2>Assumptions</h2>
        <ShareInputFields inputs={inputs} onChange={onInputs} />
      </aside>
    </div>
  );
}

function headline({ tier, cheaper, fits }: TierAdvice): string {
  if (!tier) return 'No share carries what is asked of it.';
  const dearer = fits.find((fit) => fit.lacks !== '');
  const first = `The share ${tier.name} carries it with ${SPARE * 100} % to spare`;
  return dearer && cheaper ? `${first}; ${cheaper}.` : `${first}.`;
}

function hour(at: number): string {
  return `${String(at).padStart(2, '0')}:00`;
}

function HowWorkedOut({ scale }: { scale: number }) {
  const practice: [string, string][] = [
    [
      'Sizes',
      `each byte of a container counts for ${count(scale)} on a practice share, and each read of its content too, so that room, money and waits are those of packages as large as real ones; on its own page a container has the bytes that it really has`,
    ],
  ];
  return (
    <How
      rows={[
        ...(scale > 1 ? practice : []),
        [
          'Sign-ins',
          'those by which expected sessions rise, and those that take the place of sessions that end',
        ],
        ['Busiest minute', 'so many times busier than the mean of its hour as the assumptions say'],
        [
          'Reads',
          'sign-ins a second × the reads of every package of the pool that is attached then; attached ahead: when hosts start',
        ],
        ['To spare', `${SPARE * 100} % of capacity and of operations are kept free`],
      ]}
    />
  );
}

function Tiers({ advice, facts }: { advice: TierAdvice; facts: ShareDemandFacts }) {
  return (
    <table className="table">
      <thead>
        <tr>
          <th>Share</th>
          <th className="number">Holds</th>
          <th className="number">Reads a second</th>
          <th className="number">A month</th>
          <th>Does it do?</th>
        </tr>
      </thead>
      <tbody>
        {advice.fits.map(({ tier, lacks, monthly }) => {
          const share = facts.shares.find((one) => one.name === tier.name);
          return (
            <tr key={tier.name}>
              <td className="mono strong">{tier.name}</td>
              <td className="number" title={`${plural(share?.containers ?? 0, 'container')}`}>
                {size(share?.usedBytes ?? 0)} of {size(tier.capacityBytes)}
              </td>
              <td className="number">{count(tier.operationsLimit)}</td>
              <td className="number">€ {money(monthly)}</td>
              <td className={lacks ? 'attention' : 'good'}>{lacks ? `no: it ${lacks}` : 'yes'}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function money(monthly: number): string {
  if (monthly < 0.01) return '0.01 at most';
  return monthly < 10 ? monthly.toFixed(2) : count(Math.round(monthly));
}

function Rights({ share }: { share: ShareDemandFacts['shares'][number] }) {
  const [setRights, { error, isLoading }] = packagesApi.useSetShareRightsMutation();
  const { hosts, packagers, users } = share.rights;
  const mend = () =>
    void setRights({
      params: { name: share.name },
      body: { hosts: 'read', packagers: 'write', users: 'nothing' },
    });
  return (
    <Finding
      tone={share.faults.length === 0 ? 'good' : 'attention'}
      title={<span className="mono">{share.name}</span>}
      action={
        share.faults.length > 0 ? (
          <Button size="small" loading={isLoading} onClick={mend}>
            Set the rights
          </Button>
        ) : undefined
      }
    >
      hosts {hosts}, packagers {packagers}, users {users}
      {share.faults.map((fault) => (
        <span key={fault} className="remedy">
          {fault}
        </span>
      ))}
      <ProblemNote problem={problemOf(error)} />
    </Finding>
  );
}

function Measured({ facts }: { facts: ShareDemandFacts }) {
  const packages = new Map(
    facts.pools.flatMap((pool) => pool.packages).map((row) => [row.versionId, row.measuredOn] as const),
  );
  const measured = [...packages.values()].filter((host) => host !== null).length;
  return (
    <p className="quiet">
      {measured} of {plural(packages.size, 'attached package')} {measured === 1 ? 'was' : 'were'} tried on a
      host; of the others the reads are guessed from their size.
    </p>
  );
}
