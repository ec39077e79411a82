/** Refusals as RFC 9457 problem documents. */
import { InputError } from '@vatline/files/input-error';
import type { Fault } from '@vatline/core/result';
import type { Problem } from '@vatline/contract/endpoint';
import type { ZodError } from 'zod';

/** A request that is refused: status, a sentence, and the faults at their fields. */
export class Refusal extends Error {
  override readonly name = 'Refusal';

  constructor(
    readonly status: number,
    readonly title: string,
    message: string,
    readonly faults: readonly Fault[] = [],
  ) {
    super(message);
  }
}

export function notFound(what: string): Refusal {
  return new Refusal(404, 'Not found', `There is no ${what}`);
}

/** The state of things forbids it; nothing was changed. */
export function conflict(message: string, path = ''): Refusal {
  return new Refusal(409, 'Not now', message, [{ path, message }]);
}

/** A document lists no more faults than a person can mend at a time, and says how many more there are. */
const MOST_FAULTS = 100;
/** A sentence for people, not a list. */
const SAID_AT_ONCE = 5;

/** The input is wrong; each fault at its field. */
export function invalid(faults: readonly Fault[]): Refusal {
  const said = faults.slice(0, SAID_AT_ONCE).map((f) => [f.path, f.message].filter(Boolean).join(' '));
  const more = faults.length - said.length;
  const sentence = said.join('; ') + (more > 0 ? `; and ${more.toLocaleString('en-GB')} more` : '');
  const shown = faults.slice(0, MOST_FAULTS);
  const left = faults.length - shown.length;
  if (left > 0)
    shown.push({
      path: '',
      message: `and ${left.toLocaleString('en-GB')} more faults, which are not listed`,
    });
  return new Refusal(422, 'Cannot be used', sentence, shown);
}

/** Faults inside an uploaded part, told at the field it came in. */
export function atField(field: string, faults: readonly Fault[]): Fault[] {
  return faults.map((fault) => ({ path: field, message: `${fault.path} ${fault.message}`.trim() }));
}

export function faultsOf(error: ZodError): Fault[] {
  return error.issues.flatMap((issue): Fault[] => {
    const { path, code, message } = issue;
    // Each at its own name, so that a form can show it there and a person can take it out.
    if (issue.code === 'unrecognized_keys')
      return issue.keys.map((key) => ({ path: [...path, key].join('.'), message: 'is not known here' }));
    const isMissing = code === 'invalid_type' && message.endsWith('received undefined');
    return [{ path: path.join('.'), message: isMissing ? 'is missing' : message }];
  });
}

/** The problem document for anything thrown; undefined for a bug, which must not be shown. */
export function problemOf(error: unknown): Problem | undefined {
  if (error instanceof Refusal) {
    return {
      type: 'about:blank',
      title: error.title,
      status: error.status,
      detail: error.message,
      faults: [...error.faults],
    };
  }
  if (error instanceof InputError) {
    return {
      type: 'about:blank',
      title: 'Cannot be used',
      status: 422,
      // Without what it was found in, which is a path of ours.
      detail: error.faults.map((fault) => `${fault.path} ${fault.message}`.trim()).join('; '),
      faults: [...error.faults],
    };
  }
  const http = error as { status?: unknown; expose?: unknown; type?: unknown; message?: unknown };
  // Express says of its own refusals that they may be shown, but not of addresses that cannot be decoded.
  if (typeof http?.status === 'number' && (http.expose === true || error instanceof URIError)) {
    const detail =
      http.type === 'entity.too.large' ? 'The request is larger than the server takes' : String(http.message);
    return { type: 'about:blank', title: 'Cannot be read', status: http.status, detail, faults: [] };
  }
  return undefined;
}
