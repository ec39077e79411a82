/** What a package says of itself: the part of it that travels inside its container. */
import { parseEntry } from '../inventory/text.ts';
import type { Entry } from '../inventory/entry.ts';

export interface EntryPoint {
  readonly name: string;
  /** Path inside the container. */
  readonly path: string;
  readonly arguments?: string | undefined;
  /** Path inside the container of the picture it is shown with. */
  readonly icon?: string | undefined;
  /** File name extensions it opens, with their dot. */
  readonly associations?: readonly string[] | undefined;
  /** Protocols it handles, without colon. */
  readonly protocols?: readonly string[] | undefined;
}

export interface Dependency {
  readonly name: string;
  /** Versions that will do, such as `>=5.0 <6`. */
  readonly range: string;
}

export const attachTimings = ['at sign-in', 'ahead'] as const;
export type AttachTiming = (typeof attachTimings)[number];
export const failurePolicies = ['go on without', 'refuse the sign-in', 'take the host out'] as const;
export type FailurePolicy = (typeof failurePolicies)[number];

/** When hosts attach it, and what a failure does; pools may decide otherwise. */
export interface AttachDefaults {
  readonly timing: AttachTiming;
  readonly onFailure: FailurePolicy;
}

export const usualAttach: AttachDefaults = { timing: 'at sign-in', onFailure: 'go on without' };

export interface EnvironmentVariable {
  readonly name: string;
  readonly value: string;
}

export interface PackageManifest {
  readonly name: string;
  readonly version: string;
  readonly publisher: string;
  readonly entryPoints: readonly EntryPoint[];
  readonly description?: string | undefined;
  readonly licence?: string | undefined;
  readonly dependencies?: readonly Dependency[] | undefined;
  readonly environment?: readonly EnvironmentVariable[] | undefined;
  readonly attach?: AttachDefaults | undefined;
  readonly notes?: string | undefined;
  /** Registry values, services, tasks, shortcuts and certificates that a host makes when it attaches it. */
  readonly settings?: readonly Entry[] | undefined;
}

/** The manifest as it is written into containers: the same manifest gives the same text. */
export function manifestText(manifest: PackageManifest): string {
  const { name, version, publisher, description, licence, entryPoints, dependencies } = manifest;
  const { environment, attach, notes, settings } = manifest;
  return JSON.stringify({
    name,
    version,
    publisher,
    description,
    licence,
    entryPoints,
    dependencies,
    environment,
    attach,
    notes,
    settings,
  });
}

/** Reads what a container says; of what is missing or has another shape, nothing. */
export function readManifest(text: string): PackageManifest {
  const value = parsed(text);
  const string = (key: string) => (typeof value[key] === 'string' ? value[key] : '');
  const texts = Object.fromEntries(
    ['description', 'licence', 'notes'].flatMap((key) => (string(key) ? [[key, string(key)]] : [])),
  );
  const attach = attachOf(value['attach']);
  return {
    name: string('name'),
    version: string('version'),
    publisher: string('publisher'),
    entryPoints: listOf<EntryPoint>(value['entryPoints'], 'name', 'path'),
    ...texts,
    ...filled('dependencies', listOf<Dependency>(value['dependencies'], 'name', 'range')),
    ...filled('environment', listOf<EnvironmentVariable>(value['environment'], 'name', 'value')),
    ...(attach ? { attach } : {}),
    ...filled('settings', settingsOf(value['settings'])),
  };
}

function filled<K extends string, T>(key: K, list: readonly T[]): Partial<Record<K, readonly T[]>> {
  return (list.length > 0 ? { [key]: list } : {}) as Partial<Record<K, readonly T[]>>;
}

function attachOf(value: unknown): AttachDefaults | undefined {
  const { timing, onFailure } = (
    typeof value === 'object' && value !== null ? value : {}
  ) as Partial<AttachDefaults>;
  const isKnown =
    attachTimings.some((one) => one === timing) && failurePolicies.some((one) => one === onFailure);
  return isKnown ? ({ timing, onFailure } as AttachDefaults) : undefined;
}

function settingsOf(value: unknown): Entry[] {
  if (!Array.isArray(value)) return [];
  return value.flatMap((row: unknown, i) => {
    const entry = parseEntry(JSON.stringify(row), i + 1);
    return entry.ok ? [entry.value] : [];
  });
}

function parsed(text: string): Record<string, unknown> {
  try {
    const value: unknown = JSON.parse(text);
    return typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : {};
  } catch {
    return {};
  }
}

/** The rows of a list that have text under these keys. */
function listOf<T>(value: unknown, ...keys: string[]): T[] {
  if (!Array.isArray(value)) return [];
  return value.filter((row: unknown): row is T => {
    const record = (typeof row === 'object' && row !== null ? row : {}) as Record<string, unknown>;
    return keys.every((key) => typeof record[key] === 'string');
  });
}
