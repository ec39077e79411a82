/** Files that describe something: JSON, or YAML by their name, checked against a schema. */
import type { z } from 'zod';
import { readYaml } from '@vatline/contract/yaml-document';
import { InputError } from '@vatline/files/input-error';
import { readInput } from './outcome.ts';

/** The document in a file. Throws `InputError` with every fault, in YAML with its line. */
export function readDocument<S extends z.ZodType>(file: string, schema: S): z.output<S> {
  return /\.ya?ml$/i.test(file) ? yamlIn(file, schema) : jsonIn(file, schema);
}

function yamlIn<S extends z.ZodType>(file: string, schema: S): z.output<S> {
  const read = readYaml(readInput(file), schema, 'this file', () => []);
  if (read.ok) return read.value;
  throw InputError.from(
    file,
    read.error.map(({ line, path, message }) => ({
      path: [`line ${line}`, path].filter(Boolean).join(', '),
      message,
    })),
  );
}

function jsonIn<S extends z.ZodType>(file: string, schema: S): z.output<S> {
  let value: unknown;
  try {
    value = JSON.parse(readInput(file));
  } catch (error) {
    if (error instanceof InputError) throw error;
    throw InputError.of(file, `is not JSON (${error instanceof Error ? error.message : String(error)})`);
  }
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  const faults = parsed.error.issues.map((issue) => ({ path: issue.path.join('.'), message: issue.message }));
  throw InputError.from(file, faults);
}
