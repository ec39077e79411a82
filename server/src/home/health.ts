/** Whether the server and its data are well: both databases are looked over, at most once a minute. */
import { join } from 'node:path';
import type { Health } from '@vatline/contract/home';
import { schemaName } from '../platform/database.ts';
import type * as databaseFunctions from '../platform/database-worker.ts';
import type { Parts } from '../platform/parts.ts';
import { workOf } from '../platform/workers.ts';

const databaseWork = workOf<typeof databaseFunctions>('platform/database-worker.js');
const LOOK_AGAIN_MS = 60_000;
const FILES = ['vatline.sqlite', 'estate.sqlite'];

export class HealthCheck {
  private last: { readonly at: number; readonly damage: Promise<string | null> } | undefined;

  constructor(private readonly parts: Parts) {}

  async ask(): Promise<Health> {
    const trouble = this.parts.trouble.current ?? (await this.damage());
    const status = trouble === null ? ('well' as const) : ('in trouble' as const);
    return { status, trouble, schema: schemaName, jobsRunning: this.parts.jobs.active };
  }

  private damage(): Promise<string | null> {
    const now = performance.now();
    if (!this.last || now - this.last.at > LOOK_AGAIN_MS) this.last = { at: now, damage: this.look() };
    return this.last.damage;
  }

  private async look(): Promise<string | null> {
    for (const name of FILES) {
      const damage = await databaseWork(this.parts, 'findDamage', join(this.parts.dataFolder, name)).catch(
        (error: unknown) => (error instanceof Error ? error.message : String(error)),
      );
      if (damage !== undefined)
        return `${name} is damaged (${damage}); stop Vat Line and put a backup in its place`;
    }
    return null;
  }
}
