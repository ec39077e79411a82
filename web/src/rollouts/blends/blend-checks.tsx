/** Whether hosts can be taken to an image version with packages at an instant, worst first. */
import { useDeferredValue } from 'react';
import type { BlendCheck } from '@vatline/contract/blends';
import { blendsApi } from '../../api/blends.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { Finding, type Tone } from '../../parts/finding.tsx';
import { capital, moment } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';

interface Props {
  readonly poolId: string;
  readonly imageVersionId: string;
  readonly packageVersionIds: readonly string[];
  /** When hosts would attach the packages; null is now. */
  readonly at: number | null;
}

const tones: Record<BlendCheck['verdict'], Tone> = { fails: 'trouble', warns: 'attention', holds: 'good' };

export function BlendChecks(props: Props) {
  const { zone } = useEstateTime();
  const asked = useDeferredValue(props);
  const { data, error, isFetching } = blendsApi.useBlendChecksQuery(
    { body: { ...asked, packageVersionIds: [...asked.packageVersionIds] } },
    { skip: asked.imageVersionId === '' },
  );
  if (asked.imageVersionId === '') return null;
  if (error) return <ProblemNote problem={problemOf(error)} />;
  if (!data) return <p className="quiet small">Looking whether it can be used</p>;
  return (
    <div aria-busy={isFetching}>
      {data.checks.map(({ verdict, says, advice }) => (
        <Finding key={says} tone={tones[verdict]} title={capital(says)}>
          {advice}
        </Finding>
      ))}
      <p className="quiet small">as of {moment(data.at, zone)}</p>
    </div>
  );
}
