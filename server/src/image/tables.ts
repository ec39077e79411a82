/** Image lines, their recipes, checkpoints and versions, and when versions are cut. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { Generated, Selectable } from 'kysely';
import type { DyeName } from '@vatline/core/dye/dyes';
import type { VersionState } from '@vatline/core/image/version-state';
import type { Role } from '@vatline/core/roles';
import type { Tables } from '../platform/tables.ts';

declare module '../platform/tables.ts' {
  interface Tables {
    image_line: {
      id: string;
      name: string;
      purpose: string;
      hardware_json: string;
      recipe_revision: number;
      /** Computer name of its build machine, also before there is one. */
      machine_name: string;
      machine_id: string | null;
      /** Checkpoint key of what has been run on the machine. */
      machine_key: string | null;
      dye_offset: number;
      created_ms: number;
      /** How many versions retention keeps besides those in use; null keeps all. */
      keep_versions: number | null;
      /** Version of another line that it was started from. */
      forked_from: string | null;
      checkpoint_budget_bytes: number;
    };
    recipe: {
      line_id: string;
      revision: number;
      steps_json: string;
      hardware_json: string;
      created_ms: number;
    };
    check_off: { line_id: string; check_id: string; reason: string; at_ms: number };
    checkpoint: {
      line_id: string;
      key: string;
      snapshot_id: string;
      /** Index of its step in the recipe it was made by. */
      step: number;
      used_ms: number;
      size_bytes: number;
    };
    step_duration: {
      id: Generated<number>;
      line_id: string;
      identity: string;
      minutes: number;
      at_ms: number;
      /** The job it ran in. */
      build: string;
    };
    hand_note: { id: Generated<number>; line_id: string; text: string; at_ms: number };
    fragment_revision: {
      name: string;
      revision: number;
      steps_json: string;
      note: string;
      created_ms: number;
    };
    image_version: {
      id: string;
      line_id: string;
      number: number;
      dye: DyeName;
      state: VersionState;
      note: string;
      /** 0 when it was made elsewhere. */
      recipe_revision: number;
      image_id: string;
      inventory: string;
      size_bytes: number;
      cut_ms: number;
      /** When its image was deleted; null while it is there. */
      gone_ms: number | null;
      /** Whether `version_holds` tells its applications. */
      indexed: number;
      /** The job that cut or imported it; null for those from before. */
      job_id: string | null;
      /** Hardware of a version that was made elsewhere. */
      hardware_json: string | null;
    };
    version_change: {
      id: Generated<number>;
      version_id: string;
      state: VersionState;
      by_role: Role | 'schedule';
      note: string;
      at_ms: number;
    };
    application: { id: Generated<number>; publisher: string; name: string; version: string };
    version_holds: { version_id: string; application_id: number };
    cut_schedule: {
      line_id: string;
      schedule_json: string;
      /** No occurrence up to it counts any more. */
      after_ms: number;
      last_ms: number | null;
      last_outcome: string;
      revision: Generated<number>;
    };
  }
}

export type LineRow = Selectable<Tables['image_line']>;
export type VersionRow = Selectable<Tables['image_version']>;
