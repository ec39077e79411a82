/** The files of one version as a layer over another's: what it would hold, then its real size. */
import { Button } from 'antd';
import { imagesApi } from '../../api/images.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { percent, plural, size } from '../../parts/format.ts';
import { JobCard } from '../../parts/job.tsx';

interface Pair {
  readonly from: string;
  readonly to: string;
}

export function DeltaPanel({ from, to }: Pair) {
  const { data, error } = imagesApi.useDeltaQuery({ query: { from, to } });
  const [make, making] = imagesApi.useMakeDeltaMutation();
  const problem = problemOf(error ?? making.error);
  if (!data) return <ProblemNote problem={problem} />;
  if (data.puts + data.whiteouts === 0)
    return (
      <p className="quiet" style={{ marginTop: 14 }}>
        No file differs, so there is no layer to make.
      </p>
    );
  const busy = data.job?.state === 'running' || data.job?.state === 'waiting';
  return (
    <section aria-label="As a layer">
      <h3 className="section-title">As a layer over the older version’s files</h3>
      <p>
        {plural(data.puts, 'entry', 'entries')} to put, <b>{size(data.putBytes)}</b> before compression, and{' '}
        {plural(data.whiteouts, 'whiteout')} that {data.whiteouts === 1 ? 'hides' : 'hide'}{' '}
        {size(data.removedBytes)}.{' '}
        {data.made && (
          <>
            The layer takes{' '}
            <b title={`${data.made.sizeBytes.toLocaleString('en-GB')} bytes`}>{size(data.made.sizeBytes)}</b>
            {data.putBytes > 0 && ` (${percent(data.made.sizeBytes / data.putBytes)})`}.
          </>
        )}
      </p>
      {data.job && <JobCard job={data.job} />}
      <ProblemNote problem={problem} />
      <div className="row">
        {data.made ? (
          <a className="outline-button" href={`/api/v1/version-deltas/download?from=${from}&to=${to}`}>
            Download the layer
          </a>
        ) : (
          <Button disabled={busy} onClick={() => void make({ body: { from, to } })}>
            Make the layer
          </Button>
        )}
        <span className="quiet small">
          An OCI image layout; services, settings and updates are no files and stay in the list above.
        </span>
      </div>
    </section>
  );
}
