/** What was changed while a rollout ran: who, when and why, and what was expected then. */
import type { Rollout, RolloutRevision } from '@vatline/contract/rollout';
import { rolloutsApi } from '../api/rollouts.ts';
import { capital, moment } from '../parts/format.ts';
import { useEstateTime } from '../shell/clock.ts';

export function PlanRevisions({ rollout }: { readonly rollout: Rollout }) {
  const { zone } = useEstateTime();
  const { data = [] } = rolloutsApi.useRolloutRevisionsQuery({ params: { id: rollout.id } });
  const changes = data.filter((one) => one.says !== '');
  if (changes.length === 0) return null;
  return (
    <>
      <h2>Changed under way</h2>
      <ul className="plain-list">
        {changes.map((one) => (
          <li key={one.number}>
            {capital(one.says)}
            <span className="quiet"> {who(one, zone)}</span>
          </li>
        ))}
      </ul>
    </>
  );
}

/** `“exams this week”, operator, Mon 22 Mar 08:04; done by …` */
function who({ why, by, at, expectedAt }: RolloutRevision, zone: string): string {
  const reason = why === '' ? '' : `“${why}”, `;
  const end = expectedAt === null ? '' : `; then to be done by ${moment(expectedAt, zone)}`;
  return `${reason}${by ?? 'by itself'}, ${moment(at, zone)}${end}`;
}
