import { Button } from 'antd';
import type { Problem } from '@vatline/contract/endpoint';

interface Props {
  readonly problem: Problem | undefined;
  /** Revision that the change here is based on, and the one that is kept as far as is known here. */
  readonly basedOn: number;
  readonly kept: number;
  readonly onTake: () => void;
}

/**
 * Where a change was refused since somebody else kept a newer one: the way to that, which costs the
 * change. It is on its way here for a moment after the refusal, and cannot be taken before it has come.
 */
export function KeptMeanwhile({ problem, basedOn, kept, onTake }: Props) {
  if (!problem?.faults.some((fault) => fault.path === 'basedOn')) return null;
  return (
    <div className="row">
      {kept === basedOn ? (
        <span className="quiet">Fetching what was kept.</span>
      ) : (
        <>
          <Button onClick={onTake}>Take what was kept</Button>
          <span className="quiet">your changes here are dropped then</span>
        </>
      )}
    </div>
  );
}
