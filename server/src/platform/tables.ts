/**
 * The tables of `vatline.sqlite`. Each feature adds its own in a `tables.ts` beside its stores, so
 * that the database knows them all and the ground knows no feature.
 */
import type { Generated } from 'kysely';
import type { Role } from '@vatline/core/roles';

export interface Tables {
  setting: { name: string; value: string };
  journal: {
    id: Generated<number>;
    at_ms: number;
    kind: string;
    subject: string;
    text: string;
    link: string;
    /** Whose doing it was; null where the clock or the server led to it. */
    by_role: Role | null;
  };
}
