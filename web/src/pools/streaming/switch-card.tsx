/** One pool that streams: what its hosts run, and taking all of them to another image and back. */
import { Button, Select } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import type { StreamedPool } from '@vatline/contract/pool/streaming';
import { poolsApi } from '../../api/pools.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { ProblemNote } from '../../parts/field.tsx';
import { plural } from '../../parts/format.ts';

export function SwitchCard({ pool }: { pool: StreamedPool }) {
  const running = pool.versions.filter((version) => version.hosts > 0);
  return (
    <section className="switch-card" aria-label={`Image of ${pool.name}`}>
      <div className="spread">
        <h2 className="section-title">
          <Link to={`/pools/${pool.id}`}>{pool.name}</Link>{' '}
          <span className="quiet">
            {plural(pool.hosts, 'host')} from {pool.store}
          </span>
        </h2>
        <span className="row">
          {running.map((version) => (
            <DyeChip
              key={version.id}
              name={version.dye}
              number={version.number}
              note={running.length > 1 ? plural(version.hosts, 'host') : 'on all'}
            />
          ))}
        </span>
      </div>
      {pool.switch && <UnderWay pool={pool} under={pool.switch} />}
      <SwitchForm pool={pool} />
    </section>
  );
}

function UnderWay({ pool, under }: { pool: StreamedPool; under: NonNullable<StreamedPool['switch']> }) {
  const [restart, restarting] = poolsApi.useRestartIdleMutation();
  const { switched, waiting, off, idle } = under;
  return (
    <div className="under-way">
      <p>
        On the way to <DyeChip name={under.dye} number={under.number} />: {switched} of{' '}
        {plural(pool.hosts, 'host')} have started with it,{' '}
        {waiting === 1 ? 'one waits for its' : `${waiting} wait for their`} next start
        {off > 0 && `, ${off} of them off`}.
      </p>
      <div className="progress" aria-hidden>
        <i style={{ width: `${(switched / Math.max(1, pool.hosts)) * 100}%` }} />
      </div>
      <Button
        disabled={idle === 0}
        loading={restarting.isLoading}
        onClick={() => void restart({ params: { id: pool.id } })}
      >
        {idle === 0 ? 'Somebody is on each that waits' : `Restart the ${idle} that nobody is on`}
      </Button>
      <ProblemNote problem={problemOf(restarting.error)} />
    </div>
  );
}

function SwitchForm({ pool }: { pool: StreamedPool }) {
  const [chosen, setChosen] = useState<string | null>(null);
  const [begin, beginning] = poolsApi.useSwitchPoolMutation();
  const refused = problemOf(beginning.error);
  const choice = pool.versions.find((version) => version.id === chosen);
  const isBack = choice !== undefined && pool.switch !== null && choice.hosts > 0;
  const fault = faultAt(refused, 'imageVersionId') ?? (choice?.refusal || undefined);
  const press = async () => {
    const result = await begin({ params: { id: pool.id }, body: { imageVersionId: chosen ?? '' } });
    if (!('error' in result)) setChosen(null);
  };
  return (
    <>
      <div className="row switch-form">
        <Select
          aria-label={`Another image for ${pool.name}`}
          placeholder="another image …"
          style={{ width: 220 }}
          value={chosen}
          onChange={(id: string) => {
            beginning.reset();
            setChosen(id);
          }}
          options={pool.versions.map((version) => ({
            value: version.id,
            label: (
              <DyeChip
                name={version.dye}
                number={version.number}
                note={version.hosts > 0 ? `on ${plural(version.hosts, 'host')}` : ''}
              />
            ),
          }))}
        />
        <Button
          type="primary"
          disabled={choice === undefined || choice.refusal !== ''}
          loading={beginning.isLoading}
          onClick={() => void press()}
        >
          {isBack
            ? `Take ${pool.name} back to ${choice.number} at the next start`
            : `Switch ${pool.name} at the next start`}
        </Button>
      </div>
      {fault && (
        <p className="field-fault" role="alert">
          {fault}
        </p>
      )}
      <ProblemNote problem={refused} shown={['imageVersionId']} />
    </>
  );
}
