/** A forecast as the command line writes it. */
import type { Forecast, Percentiles } from '@vatline/core/rollout/forecast/forecast';
import { formatInstant, type Instant } from '@vatline/core/time/instant';

export function iso(instant: Instant | null): string | null {
  return instant === null ? null : formatInstant(Math.round(instant));
}

const inIso = ({ p10, p50, p90 }: Percentiles<Instant | null>) => ({
  p10: iso(p10),
  p50: iso(p50),
  p90: iso(p90),
});

export function asJson(answer: Forecast): Record<string, unknown> {
  const { windowsUsed, finishesInFirstWindow, minSeatsLeft, binding } = answer;
  const hosts = answer.hosts.map(({ index, name, start, finish: end }) => ({
    index,
    name,
    start: iso(start),
    finish: iso(end),
  }));
  const rings = answer.rings.map(({ name, opens, finish }) => ({
    name,
    opens: inIso(opens),
    finish: inIso(finish),
  }));
  const finish = inIso(answer.finish);
  return { finish, windowsUsed, finishesInFirstWindow, minSeatsLeft, binding, rings, hosts };
}
