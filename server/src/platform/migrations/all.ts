/** Every migration in order. Forward only: a mistake is mended by the next one. */
import type { Migration } from 'kysely';
import { first } from './0001-first.ts';

export const migrations: Record<string, Migration> = { '0001-first': first };
