/** Forms with files, which are too large for a call of the API. */
import { useCallback } from 'react';
import { useDispatch } from 'react-redux';
import type { z } from 'zod';
import type { Problem, RawEndpoint } from '@vatline/contract/endpoint';
import { topicsOf } from '@vatline/contract/topics';
import { addressOf, api, tagsOfNews } from './base.ts';

type Sent<T> = { readonly answer: T } | { readonly problem: Problem };

interface Form {
  /** Of the address. */
  readonly params?: Readonly<Record<string, string>>;
  readonly fields?: Readonly<Record<string, string>>;
  readonly files: Readonly<Record<string, File>>;
  /** Told how much is sent, 0 to 1. */
  readonly onProgress?: (share: number) => void;
}

/** Sends a form to an endpoint, and has asked anew what that changes. */
export function useSendForm<R extends z.ZodType>(
  endpoint: RawEndpoint<z.ZodType, z.ZodType, R>,
): (form: Form) => Promise<Sent<z.output<R>>> {
  const dispatch = useDispatch();
  return useCallback(
    async (form) => {
      const sent = await send<z.output<R>>(addressOf(endpoint, form.params), form);
      if ('answer' in sent)
        dispatch(api.util.invalidateTags(tagsOfNews(topicsOf(endpoint.changes, form, sent.answer))));
      return sent;
    },
    [dispatch, endpoint],
  );
}

/** Fetch cannot tell how much is sent, so this is an XMLHttpRequest. */
function send<T>(address: string, { fields = {}, files, onProgress }: Form): Promise<Sent<T>> {
  const form = new FormData();
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  for (const [name, file] of Object.entries(files)) form.append(name, file);
  return new Promise((done) => {
    const request = new XMLHttpRequest();
    const failed = (detail: string): Sent<T> => ({
      problem: { type: 'about:blank', title: 'Failed', status: 0, detail, faults: [] },
    });
    request.upload.onprogress = (event) => onProgress?.(event.total > 0 ? event.loaded / event.total : 0);
    request.onerror = () => done(failed('The server does not answer; nothing was kept'));
    request.onload = () => {
      try {
        const answer = JSON.parse(request.responseText) as unknown;
        done(request.status === 200 ? { answer: answer as T } : { problem: answer as Problem });
      } catch {
        done(failed('The server gave no reason'));
      }
    };
    request.open('POST', `/api/v1${address}`);
    request.send(form);
  });
}
