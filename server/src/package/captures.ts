/** Captures: rows in the database, their files in folders. */
import { join } from 'node:path';
import type { Capture } from '@vatline/contract/capture';
import { fromJson } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import { newestRuleRevision, USUAL_RULES } from './rule-sets.ts';
import type { CaptureRow } from './tables.ts';

/** What was asked for when a capture began. */
export interface CaptureRequest {
  readonly installers: readonly string[];
  readonly quiet: boolean;
  readonly restarts: boolean;
}

export class CaptureStore {
  constructor(private readonly parts: Pick<Parts, 'db' | 'dataFolder' | 'jobs' | 'estate'>) {}

  private get db() {
    return this.parts.db;
  }

  async get(id: string): Promise<CaptureRow> {
    const row = await this.db.selectFrom('capture').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw notFound('such capture');
    return row;
  }

  /** Adds a capture, to be judged by the usual rules where there are any. */
  async add(
    row: Omit<CaptureRow, 'counts_json' | 'draft_json' | 'rules_name' | 'rules_revision'>,
  ): Promise<void> {
    const revision = await newestRuleRevision(this.db, USUAL_RULES);
    const rules = { rules_name: revision > 0 ? USUAL_RULES : '', rules_revision: revision };
    await this.db
      .insertInto('capture')
      .values({ ...row, ...rules, counts_json: null, draft_json: null })
      .execute();
  }

  async update(id: string, change: Partial<Omit<CaptureRow, 'id'>>): Promise<void> {
    await this.db.updateTable('capture').set(change).where('id', '=', id).execute();
  }

  folder(id: string): string {
    return join(this.parts.dataFolder, 'captures', id);
  }

  /** Names with versions of what a capture installs; none for one that was brought. */
  async installerNames(capture: CaptureRow): Promise<string[]> {
    return namesOf(capture, await this.parts.estate.packaging.installers());
  }

  /** Of the captures of some packages, the newest first. */
  named(packages: readonly string[]): Promise<CaptureRow[]> {
    return this.db
      .selectFrom('capture')
      .selectAll()
      .where('package_name', 'in', packages)
      .orderBy('created_ms', 'desc')
      .execute();
  }

  /** What each is of and how it stands, the oldest first. */
  states(): Promise<Pick<CaptureRow, 'package_name' | 'state'>[]> {
    return this.db.selectFrom('capture').select(['package_name', 'state']).orderBy('created_ms').execute();
  }

  async present(row: CaptureRow): Promise<Capture> {
    const activeJob = await this.parts.jobs.activeOn(`capture:${row.id}`);
    return presentCapture(row, await this.installerNames(row), activeJob);
  }
}

export function namesOf(
  { request_json }: CaptureRow,
  known: readonly { readonly id: string; readonly name: string; readonly version: string }[],
): string[] {
  return fromJson<CaptureRequest>(request_json).installers.map((id) => {
    const found = known.find((row) => row.id === id);
    return found ? `${found.name} ${found.version}` : id;
  });
}

export function presentCapture(
  row: CaptureRow,
  installers: string[],
  activeJob: Capture['activeJob'],
): Capture {
  const { quiet } = fromJson<CaptureRequest>(row.request_json);
  return {
    id: row.id,
    name: row.package_name,
    source: row.source,
    installers,
    quiet,
    rules: row.rules_name === '' ? null : { name: row.rules_name, revision: row.rules_revision },
    state: row.state,
    createdAt: row.created_ms,
    counts: row.counts_json ? fromJson(row.counts_json) : null,
    proposal: fromJson(row.proposal_json),
    activeJob,
  };
}
