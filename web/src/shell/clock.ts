/** The estate's clock in the interface: between messages it runs its own hands. */
import { useEffect, useState } from 'react';
import { estateApi } from '../api/estate.ts';

export interface EstateTime {
  readonly now: number;
  readonly zone: string;
  readonly rate: number;
  /** Where it is being sent; null while it goes by its rate. */
  readonly jumpingTo: number | null;
}

/** Without word from the server for so long the hands stand still. */
const MAX_GUESS_MS = 10_000;

/** The estate's time, shown anew at least once a second while it runs. */
export function useEstateTime(): EstateTime {
  const { data, fulfilledTimeStamp } = estateApi.useClockQuery({});
  const [seenAt, setSeenAt] = useState(0);
  const rate = data?.rate ?? 0;
  useEffect(() => {
    if (rate === 0) return undefined;
    const timer = window.setInterval(() => setSeenAt(Date.now()), rate >= 60 ? 250 : 1_000);
    return () => window.clearInterval(timer);
  }, [rate]);
  if (!data) return { now: 0, zone: 'UTC', rate: 0, jumpingTo: null };
  const passed =
    data.jumpingTo === null
      ? Math.max(0, Math.min(MAX_GUESS_MS, seenAt - (fulfilledTimeStamp ?? 0))) * data.rate
      : 0;
  return { now: data.now + passed, zone: data.zone, rate: data.rate, jumpingTo: data.jumpingTo };
}
