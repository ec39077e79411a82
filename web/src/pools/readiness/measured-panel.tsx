/** What came of it in the last week: hours that hosts were on, money, and people who waited; nothing of it is reckoned from rules. */
import type { Readiness } from '@vatline/contract/pool/readiness';
import { count, money, moment, percent, plural } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { shareInWords } from './share-in-words.ts';

const NOTES = 8;

export function MeasuredPanel({ readiness: { measured, notes, errands } }: { readiness: Readiness }) {
  const { zone } = useEstateTime();
  const { onHours, hostHours, suspendedHours, saved, hours } = measured;
  const sum = (of: (hour: (typeof hours)[number]) => number) =>
    hours.reduce((total, hour) => total + of(hour), 0);
  const [signIns, waited] = [sum((hour) => hour.signIns), sum((hour) => hour.waited)];
  return (
    <>
      <section aria-label="Measured in the last seven days">
        <h2>Measured in the last 7 days</h2>
        <dl className="facts measured">
          <dt>Hosts on</dt>
          <dd>
            {count(Math.round(onHours))} of {plural(Math.round(hostHours), 'host hour')}
            {hostHours > 0 && `, ${percent(onHours / hostHours)}`}
          </dd>
          {suspendedHours > 0 && (
            <>
              <dt>Suspended</dt>
              <dd>{plural(Math.round(suspendedHours), 'host hour')}</dd>
            </>
          )}
          <dt>Saved</dt>
          <dd>{money(saved)} against leaving all on</dd>
          <dt>Sign-ins</dt>
          <dd>{count(signIns)}</dd>
          <dt>Waited</dt>
          <dd>
            {waited === 0
              ? 'nobody'
              : `${count(waited)}, ${shareInWords(waited / signIns)}, for ${(sum((hour) => hour.waitedMinutes) / waited).toFixed(1)} min`}
          </dd>
        </dl>
      </section>
      <section aria-label="What was done">
        <h2>What was done</h2>
        {errands.length > 0 && (
          <p>
            Now:{' '}
            {errands
              .slice(0, NOTES)
              .map(({ host, errand }) => `${host} ${errand}`)
              .join(', ')}
            {errands.length > NOTES && ` and ${errands.length - NOTES} more`}
          </p>
        )}
        {notes.length === 0 && <p className="quiet">Nothing yet.</p>}
        <ul className="plain-list notes">
          {notes.slice(0, NOTES).map((note) => (
            <li key={`${note.at} ${note.text}`}>
              <span className="quiet">{moment(note.at, zone)}</span> {note.text}
            </li>
          ))}
        </ul>
      </section>
    </>
  );
}
