import './journal.css';
import { useState } from 'react';
import { Link } from 'react-router';
import { homeApi } from '../api/home.ts';
import { useEstateTime } from '../shell/clock.ts';
import { moment } from './format.ts';
import { PagedList } from './paged-list.tsx';

/** What happened, newest first. */
export function Journal() {
  const [q, setQ] = useState('');
  const list = homeApi.useJournalInfiniteQuery({ query: { q } });
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
      <PagedList
        list={list}
        rowHeight={27}
        maxHeight={222}
        none={<p className="quiet">{q === '' ? 'Nothing has happened yet.' : `Nothing holds “${q}”.`}</p>}
        row={(row) => (
          <div className="journal-row">
            <time>{moment(row.at, zone)}</time>
            <span className="quiet">{row.kind}</span>
            <span className="quiet">{row.by ?? ''}</span>
            <Link to={row.to}>{row.text}</Link>
          </div>
        )}
      />
    </section>
  );
}
