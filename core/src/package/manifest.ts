/** What a package says of itself: the part of it that travels inside its container. */

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

export interface PackageManifest {
  readonly name: string;
  readonly version: string;
  readonly publisher: string;
  readonly entryPoints: readonly EntryPoint[];
  readonly description?: string | undefined;
  readonly licence?: string | undefined;
  readonly dependencies?: readonly Dependency[] | undefined;
}

/** The manifest as it is written into containers: the same manifest gives the same text. */
export function manifestText(manifest: PackageManifest): string {
  const { name, version, publisher, description, licence, entryPoints, dependencies } = manifest;
  return JSON.stringify({ name, version, publisher, description, licence, entryPoints, dependencies });
}

/** Reads what a container says; of what is missing or has another shape, nothing. */
export function readManifest(text: string): PackageManifest {
  const value = parsed(text);
  const string = (key: string) => (typeof value[key] === 'string' ? value[key] : '');
  const { description, licence } = { description: string('description'), licence: string('licence') };
  const dependencies = listOf<Dependency>(value['dependencies'], 'name', 'range');
  return {
    name: string('name'),
    version: string('version'),
    publisher: string('publisher'),
    entryPoints: listOf<EntryPoint>(value['entryPoints'], 'name', 'path'),
    ...(description ? { description } : {}),
    ...(licence ? { licence } : {}),
    ...(dependencies.length > 0 ? { dependencies } : {}),
  };
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
