/** Pools, what they run, and their hosts. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { Generated, Selectable } from 'kysely';
import type { PoolKind, CloneKind } from '@vatline/contract/pool/kinds';
import type { HostState } from '@vatline/core/rollout/host-state';
import type { Tables } from '../platform/tables.ts';

declare module '../platform/tables.ts' {
  interface Tables {
    pool: {
      id: string;
      name: string;
      kind: PoolKind;
      clone: CloneKind;
      line_id: string;
      pattern: string;
      ou: string;
      site: string;
      datastore: string;
      processors: number;
      session_limit: number;
      blend_id: string | null;
      created_ms: number;
    };
    blend: {
      id: string;
      pool_id: string;
      number: number;
      image_version_id: string;
      packages_json: string;
      made_ms: number;
    };
    host: {
      id: string;
      pool_id: string;
      name: string;
      machine_id: string;
      state: HostState;
      /** The blend it runs; while at work, the one it ran last. */
      blend_id: string;
      next_blend_id: string | null;
      /** For people; nothing is decided by it. */
      note: string;
      /** 1 while the host holds exactly its blend; 0 from a failure in the middle of its work until it is done. */
      contents_known: Generated<number>;
    };
    /** Hosts that are being made, with the room they will take. */
    host_reserved: {
      name: string;
      pool_id: string;
      site: string;
      datastore: string;
      cores: number;
      bytes: number;
    };
  }
}

export type PoolRow = Selectable<Tables['pool']>;
export type BlendRow = Selectable<Tables['blend']>;
export type HostRow = Selectable<Tables['host']>;
