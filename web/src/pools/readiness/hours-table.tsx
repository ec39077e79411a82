/** A day by its hours: who is expected, what that needs, and what the rules add to it. */
import { InputNumber } from 'antd';
import type { LeadKind, ReadinessFacts, ReadinessRules } from '@vatline/core/pool/readiness';
import { recommendedSpares } from '@vatline/core/pool/readiness';
import type { PlannedHour } from '@vatline/core/pool/readiness-week';
import type { ReadinessRulesBody } from '@vatline/contract/pool/readiness';
import { count } from '../../parts/format.ts';

const leadWords: Record<LeadKind, string> = { start: 'started', resume: 'resumed', make: 'made' };

interface Props {
  readonly hours: readonly PlannedHour[];
  readonly facts: ReadinessFacts;
  readonly rules: ReadinessRules;
  readonly hourNow: number | undefined;
  readonly onChange: (change: Partial<ReadinessRulesBody>) => void;
}

export function HoursTable({ hours, facts, rules, hourNow, onChange }: Props) {
  const set = (list: readonly number[], hour: number, value: number | null) =>
    list.map((one, h) => (h === hour ? Math.max(0, Math.round(value ?? 0)) : one));
  const { spares } = rules;
  return (
    <table className="table hours-table" aria-label="Hours of the day">
      <thead>
        <tr>
          <th>Hour</th>
          <th className="number">Sessions</th>
          <th className="number">People who come</th>
          <th>The next host is</th>
          <th className="number">Spares</th>
          <th className="number">On at least</th>
          <th className="number">Needed</th>
          <th className="number">On</th>
        </tr>
      </thead>
      <tbody>
        {hours.map((one) => (
          <tr key={one.hour} className={one.hour === hourNow ? 'chosen' : ''}>
            <td>{String(one.hour).padStart(2, '0')}:00</td>
            <td className="number">{count(Math.round(one.expected))}</td>
            <td className="number">{count(Math.round(facts.arrivals[one.hour] ?? 0))}</td>
            <td className="quiet">{leadWords[one.lead]}</td>
            <td className="number">
              {spares === 'recommended' ? (
                count(one.spares)
              ) : (
                <>
                  <span className="quiet">{count(recommendedSpares(facts, one.lead, one.hour))} → </span>
                  <InputNumber
                    size="small"
                    controls={false}
                    min={0}
                    aria-label={`Spares at ${one.hour}:00`}
                    value={spares[one.hour] ?? 0}
                    onChange={(value) => onChange({ spares: set(spares, one.hour, value) })}
                  />
                </>
              )}
            </td>
            <td className="number">
              <InputNumber
                size="small"
                controls={false}
                min={0}
                aria-label={`On at least at ${one.hour}:00`}
                value={rules.leastOn[one.hour] ?? 0}
                onChange={(value) => onChange({ leastOn: set(rules.leastOn, one.hour, value) })}
              />
            </td>
            <td className="number">{count(one.needed)}</td>
            <td className="number">
              <b>{count(one.on)}</b>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
