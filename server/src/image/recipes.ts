/** Recipes of image lines in the database, in revisions. */
import type { LineRevision } from '@vatline/contract/image';
import { expandRecipe, type FragmentLibrary } from '@vatline/core/image/fragments';
import type { Hardware } from '@vatline/core/image/hardware';
import type { Step } from '@vatline/core/image/recipe';
import { must } from '@vatline/core/result';
import { fromJson } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import { refuseStale } from '../platform/stale.ts';
import { fragmentLibrary } from './fragment-store.ts';

/** A revision of a recipe: as it was written, and with the steps of its fragments in their place. */
export interface KeptRecipe {
  readonly steps: Step[];
  readonly expanded: readonly Step[];
  readonly hardware: Hardware;
}

export class RecipeStore {
  constructor(private readonly parts: Pick<Parts, 'db'>) {}

  private get db() {
    return this.parts.db;
  }

  async get(lineId: string, revision: number): Promise<KeptRecipe> {
    const row = await this.db
      .selectFrom('recipe')
      .selectAll()
      .where('line_id', '=', lineId)
      .where('revision', '=', revision)
      .executeTakeFirstOrThrow();
    const steps = fromJson<Step[]>(row.steps_json);
    const { steps: expanded } = must(expandRecipe(steps, await this.library()));
    return { steps, expanded, hardware: fromJson(row.hardware_json) };
  }

  /** The recipe of every line as it is written now. */
  async current(): Promise<{ lineId: string; line: string; steps: Step[] }[]> {
    const rows = await this.db
      .selectFrom('image_line')
      .innerJoin('recipe', (join) =>
        join
          .onRef('recipe.line_id', '=', 'image_line.id')
          .onRef('recipe.revision', '=', 'image_line.recipe_revision'),
      )
      .select(['image_line.id as lineId', 'image_line.name as line', 'recipe.steps_json as steps'])
      .orderBy('image_line.created_ms')
      .execute();
    return rows.map((row) => ({ ...row, steps: fromJson<Step[]>(row.steps) }));
  }

  /** The newest hundred revisions of a line's recipe, newest first, with the versions that were cut from each. */
  async revisions(lineId: string): Promise<LineRevision[]> {
    const rows = await this.db
      .selectFrom('recipe')
      .selectAll()
      .where('line_id', '=', lineId)
      .orderBy('revision', 'desc')
      .limit(100)
      .execute();
    const versions = await this.db
      .selectFrom('image_version')
      .select(['number', 'recipe_revision'])
      .where('line_id', '=', lineId)
      .orderBy('number')
      .execute();
    return rows.map((row) => ({
      revision: row.revision,
      createdAt: row.created_ms,
      steps: fromJson(row.steps_json),
      hardware: fromJson(row.hardware_json),
      versions: versions.filter((v) => v.recipe_revision === row.revision).map((v) => v.number),
    }));
  }

  /** Every revision of every fragment. */
  library(): Promise<FragmentLibrary> {
    return fragmentLibrary(this.db);
  }

  /**
   * Keeps a new revision of the recipe. Throws a conflict when it is no longer the next one after
   * what the change is based on.
   */
  async add(
    lineId: string,
    steps: readonly Step[],
    hardware: Hardware,
    at: number,
    basedOn?: number,
  ): Promise<number> {
    return this.db.transact(async () => {
      const line = await this.db
        .selectFrom('image_line')
        .select(['name', 'recipe_revision as kept'])
        .where('id', '=', lineId)
        .executeTakeFirst();
      if (!line) throw notFound('such image line');
      const { name, kept } = line;
      refuseStale('recipe', name, kept, basedOn ?? kept);
      const revision = kept + 1;
      const hardware_json = JSON.stringify(hardware);
      await this.db
        .insertInto('recipe')
        .values({
          line_id: lineId,
          revision,
          steps_json: JSON.stringify(steps),
          hardware_json,
          created_ms: at,
        })
        .execute();
      await this.db
        .updateTable('image_line')
        .set({ recipe_revision: revision, hardware_json })
        .where('id', '=', lineId)
        .execute();
      return revision;
    });
  }
}
