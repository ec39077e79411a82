import { Button } from 'antd';
import { estateApi } from '../api/estate.ts';
import { useEstateTime } from '../shell/clock.ts';

/** Says so, where something waits for the estate's clock and that is paused; with the way on. */
export function WaitsForClock({ what }: { readonly what: string }) {
  const { now, rate, jumpingTo } = useEstateTime();
  const [setClock] = estateApi.useSetClockMutation();
  if (now === 0 || rate > 0 || jumpingTo !== null) return null;
  return (
    <p className="attention row waits-for-clock" role="status">
      <span>The estate’s clock is paused, so {what} goes no further.</span>
      <Button size="small" onClick={() => void setClock({ body: { action: 'rate', rate: 60 } })}>
        Run it at 60×
      </Button>
    </p>
  );
}
