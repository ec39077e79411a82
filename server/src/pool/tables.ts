/** Pools, what they run, and their hosts. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { Generated, Selectable } from 'kysely';
import type { PoolKind, CloneKind } from '@vatline/contract/pool/kinds';
import type { HostWork, Service } from '@vatline/core/pool/service-state';
import type { Power } from '@vatline/core/power';
import type { LeadKind } from '@vatline/core/pool/readiness';
import type { PlacementRole } from '@vatline/contract/pool/kinds';
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
      /** The size of its hosts; of pools from before, memory is 0, which is nothing known. */
      processors: number;
      memory_bytes: number;
      graphics: number;
      /** `PoolSettings`. */
      settings_json: string;
      settings_revision: Generated<number>;
      session_limit: number;
      blend_id: string | null;
      created_ms: number;
      /** Why no other image may come onto its hosts; empty where it may. */
      source_hold: Generated<string>;
    };
    /** Where a pool stands; places are filled in their order, each up to its bound. */
    pool_place: { pool_id: string; place: number; site: string; network: string; at_most: number | null };
    /** The datastores of a place, by what lies there. Of what is not said the disks' own. */
    pool_placement: { pool_id: string; place: number; role: PlacementRole; datastore: string };
    blend: {
      id: string;
      pool_id: string;
      number: number;
      image_version_id: string;
      made_ms: number;
    };
    /** The package versions of a blend, in their order; some of an old blend may be deleted by now. */
    blend_package: { blend_id: string; place: number; package_version_id: string };
    host: {
      id: string;
      pool_id: string;
      name: string;
      /** At the hypervisor; null for a host that is no virtual machine. */
      machine_id: string | null;
      service: Service;
      work: HostWork;
      /** The blend it runs; while at work, the one it ran last. */
      blend_id: string;
      next_blend_id: string | null;
      /** For people; nothing is decided by it. */
      note: string;
      /** 1 while the host holds exactly its blend; 0 from a failure in the middle of its work until it is done. */
      contents_known: Generated<number>;
      /** 1 where a person holds it back, also over work that is done to it. */
      is_held: Generated<number>;
      /** Which of the pool's places it stands on. */
      place: Generated<number>;
      power: Generated<Power>;
      /** Since when it is not on; null while it is. */
      rests_since_ms: Generated<number | null>;
    };
    /** Hosts that were removed: the records of rollouts still name them. */
    removed_host: Omit<Selectable<Tables['host']>, 'removed_ms'> & { removed_ms: number };
    /** Those that are there and those that were removed: a view. */
    known_host: Selectable<Tables['host']> & { is_removed: number };
    /** Hosts that are being made, with the room they will take. */
    host_reserved: {
      name: string;
      pool_id: string;
      site: string;
      network: string;
      cores: number;
      memory_bytes: number;
      graphics: number;
      licence: string | null;
      /** The streaming store, and the slot of a chassis, where it has one. */
      store: string | null;
      chassis: string | null;
      slot: number | null;
      /** Pairs of a datastore and bytes. */
      bytes_json: string;
    };
    /** Pools whose hosts are to stream another image from their next start on. */
    stream_switch: { pool_id: string; to_blend_id: string; begun_ms: number };
    /** Copies of hosts that somebody keeps to study; each a machine that is off. */
    kept_copy: { machine_id: string; pool_id: string; host: string; name: string; kept_ms: number };
    /** How long each way to get a host ready took, each time. */
    lead_time: { pool_id: string; kind: LeadKind; at_ms: number; minutes: number };
    /** Accounts that computers are joined with, whose passwords are known here. */
    join_account: { name: string; sealed_password: string; known_ms: number };
  }
}

export type PoolRow = Selectable<Tables['pool']>;
export type ReservedRow = Selectable<Tables['host_reserved']>;
export type BlendRow = Selectable<Tables['blend']>;
export type SwitchRow = Selectable<Tables['stream_switch']>;
export type HostRow = Selectable<Tables['host']>;
