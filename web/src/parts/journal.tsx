import './journal.css';
import { useState } from 'react';
import { Link } from 'react-router';
import { homeApi } from '../api/home.ts';
import { useEstateTime } from '../shell/clock.ts';
import { moment } from './format.ts';

/** What happened, newest first. */
export function Journal() {
  const [q, setQ] = useState('');
  const { data = [] } = homeApi.useJournalQuery({ query: { q, limit: 200 } });
  const { zone } = useEstateTime();
  return (
    <section className="journal" aria-label="Journal">
      <input
        className="rack-filter"
        placeholder="filter the journal"
        aria-label="Filter the journal"
        value={q}
        onChange={(event) => setQ(event.target.value)}
      />
      {data.map((row) => (
        <div key={row.id} className="journal-row">
          <time>{moment(row.at, zone)}</time>
          <span className="quiet">{row.kind}</span>
          <span className="quiet">{row.by ?? ''}</span>
          <Link to={row.to}>{row.text}</Link>
        </div>
      ))}
      {data.length === 0 && <p className="quiet">Nothing has happened yet.</p>}
    </section>
  );
}
