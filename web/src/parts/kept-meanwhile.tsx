import { Button } from 'antd';
import type { Problem } from '@vatline/contract/endpoint';

/** Where a change was refused since somebody else kept a newer one: the way to that, which costs the change. */
export function KeptMeanwhile({ problem, onTake }: { problem: Problem | undefined; onTake: () => void }) {
  if (!problem?.faults.some((fault) => fault.path === 'basedOn')) return null;
  return (
    <div className="row">
      <Button onClick={onTake}>Take what was kept</Button>
      <span className="quiet">your changes here are dropped then</span>
    </div>
  );
}
