/** Packages, their captures, versions and containers, and what judges and signs them. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { Generated, Selectable } from 'kysely';
import type { PresentDelivery } from '@vatline/contract/package';
import type { PackageState } from '@vatline/core/package/version-state';
import type { ContainerFormat } from '@vatline/core/container/formats';
import type { CaptureState, CaptureSource } from '@vatline/contract/capture';
import type { Tables } from '../platform/tables.ts';

declare module '../platform/tables.ts' {
  interface Tables {
    package: {
      id: string;
      name: string;
      publisher: string;
      delivery: PresentDelivery;
      note: string;
      /** Whether several versions may reach a person at once. */
      side_by_side: Generated<number>;
      /** How many versions retention keeps besides those in use; null keeps all. */
      keep_versions: number | null;
    };
    capture: {
      id: string;
      package_name: string;
      source: CaptureSource;
      /** Installers, and how the machine was to behave. */
      request_json: string;
      state: CaptureState;
      proposal_json: string;
      counts_json: string | null;
      created_ms: number;
      /** The rules of one's own that judged it; empty and 0 for the built-in ones alone. */
      rules_name: string;
      rules_revision: number;
      draft_json: string | null;
    };
    package_version: {
      id: string;
      package_id: string;
      version: string;
      state: PackageState;
      digest: string;
      files: number;
      size_bytes: number;
      container_bytes: number;
      built_ms: number;
      /** Format of the chosen container, whose digest the version has. */
      format: ContainerFormat;
      capture_id: string | null;
      /** What was found when it was verified last. */
      verified_json: string | null;
      verified_ms: number | null;
      certificate_id: string | null;
      signed_ms: number | null;
      /** Certificate of its signature and those above it, in PEM; null without a signature. */
      signer_pem: string | null;
      /** What its manifest says besides name, publisher, version and entry points. */
      details_json: string;
      /** The share that hosts read it from, once it was uploaded whole. */
      share: string | null;
      /** What attaching it took on a host, measured by a trial. */
      sign_in_json: string | null;
    };
    /** What people open of a package, whatever its version. */
    entry_point: {
      id: string;
      package_id: string;
      name: string;
      /** Of those with the same name. */
      nth: number;
    };
    /** What a version brings of it: path, arguments, icon and what it opens. */
    version_entry_point: { version_id: string; place: number; entry_point_id: string; details_json: string };
    container: {
      version_id: string;
      format: ContainerFormat;
      digest: string;
      size_bytes: number;
      seconds: number;
      built_ms: number;
    };
    certificate: {
      id: string;
      name: string;
      chain_pem: string;
      /** The private key, encrypted with a key that is not in the database. */
      sealed_key: string;
      created_ms: number;
    };
    rule_set_revision: {
      name: string;
      revision: number;
      rules_json: string;
      note: string;
      created_ms: number;
    };
  }
}

export type CertificateRow = Selectable<Tables['certificate']>;
export type CaptureRow = Selectable<Tables['capture']>;
export type PackageRow = Selectable<Tables['package']>;
export type VersionRow = Selectable<Tables['package_version']>;
export type ContainerRow = Selectable<Tables['container']>;
