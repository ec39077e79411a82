/** What a failed call says. */
import type { Problem } from '@vatline/contract/endpoint';

/** The problem document of a failed call; a made-up one when the server gave none. */
export function problemOf(error: unknown): Problem | undefined {
  if (!error || typeof error !== 'object') return undefined;
  const { data, status } = error as { data?: unknown; status?: unknown };
  if (data && typeof data === 'object' && 'detail' in data)
    return { ...(data as Problem), faults: (data as Partial<Problem>).faults ?? [] };
  const detail =
    status === 'FETCH_ERROR'
      ? 'The server does not answer; is it still running?'
      : 'The server gave no reason';
  return { type: 'about:blank', title: 'Failed', status: 0, detail, faults: [] };
}

/** The message at one field of a problem. */
export function faultAt(problem: Problem | undefined, path: string): string | undefined {
  return problem?.faults.find((fault) => fault.path === path)?.message;
}
