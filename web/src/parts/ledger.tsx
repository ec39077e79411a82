/** The ledger: every object an action creates, in which system, and how it stands. */
import './ledger.css';
import { useState } from 'react';
import { Virtuoso } from 'react-virtuoso';
import type { LedgerRow } from '@vatline/contract/job';

const states = ['made', 'planned', 'failed', 'undone'] as const;

export function LedgerTable({ rows }: { rows: readonly LedgerRow[] }) {
  const [only, setOnly] = useState<LedgerRow['state'] | undefined>();
  const shown = only ? rows.filter((row) => row.state === only) : rows;
  return (
    <section aria-label="ledger">
      <h2 className="section-title">Ledger</h2>
      <div className="chips">
        {states.map((state) => {
          const n = rows.filter((row) => row.state === state).length;
          if (n === 0) return null;
          return (
            <button
              key={state}
              type="button"
              className="chip-button"
              aria-pressed={only === state}
              onClick={() => setOnly(only === state ? undefined : state)}
            >
              {state} {n}
            </button>
          );
        })}
      </div>
      <Virtuoso
        style={{ height: Math.min(260, shown.length * 30) }}
        data={shown as LedgerRow[]}
        itemContent={(_i, row) => (
          <div className="ledger-row">
            <span className="mono">{row.object}</span>
            <span>{row.system}</span>
            <span className={row.state === 'failed' ? 'trouble' : row.state === 'made' ? 'good' : 'quiet'}>
              {row.state}
            </span>
            <span className="mono quiet" title={row.detail || row.key}>
              {row.detail || row.key}
            </span>
          </div>
        )}
      />
    </section>
  );
}
