/** What hosts were found to have that their blends do not say. */
import type { DriftKind } from '@vatline/core/rollout/drift';

declare module '../../platform/tables.ts' {
  interface Tables {
    host_drift: {
      host_id: string;
      kind: DriftKind;
      /** A container by name; empty for all other kinds. */
      what: string;
      /** Place of the kind among all, the worst 0. */
      rank: number;
      /** When it was found first. */
      found_ms: number;
    };
    /** When each pool was looked at last. */
    drift_look: { pool_id: string; at_ms: number };
  }
}
