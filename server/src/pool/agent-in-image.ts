/** Whether the host agent is in an image, by the recipe that it was built from. */
import { sql } from 'kysely';
import type { Db } from '../platform/database.ts';

/** Null for an image that was made elsewhere, of which nobody knows. */
export async function hasAgent(
  db: Db,
  { line_id, recipe_revision }: { readonly line_id: string; readonly recipe_revision: number },
): Promise<boolean | null> {
  if (recipe_revision === 0) return null;
  const isAgent = sql<boolean>`json_extract(value, '$.kind') = 'host agent'`;
  const isOn = sql<boolean>`coalesce(json_extract(value, '$.disabled'), 0) = 0`;
  const found = await sql<{ found: number }>`
    with steps as (select value from recipe, json_each(steps_json) where line_id = ${line_id} and revision = ${recipe_revision})
    select exists (select 1 from steps where ${isAgent} and ${isOn}) or exists (
      select 1 from steps as outer_step
      join fragment_revision on fragment_revision.name = json_extract(outer_step.value, '$.fragment')
        and fragment_revision.revision = json_extract(outer_step.value, '$.revision'),
        json_each(fragment_revision.steps_json) as inner_step
      where json_extract(inner_step.value, '$.kind') = 'host agent') as found`.execute(db);
  return found.rows[0]?.found === 1;
}
