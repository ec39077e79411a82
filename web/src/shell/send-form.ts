import type { Problem } from '@vatline/contract/endpoint';

export type Sent<T> = { readonly answer: T } | { readonly problem: Problem };

/** Uploads a form and tells how much is sent; fetch cannot tell, so this is an XMLHttpRequest. */
export function sendForm<T>(
  path: string,
  fields: Readonly<Record<string, string>>,
  files: Readonly<Record<string, File>>,
  onProgress: (share: number) => void,
): Promise<Sent<T>> {
  const form = new FormData();
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  for (const [name, file] of Object.entries(files)) form.append(name, file);
  return new Promise((done) => {
    const request = new XMLHttpRequest();
    const failed = (detail: string): Sent<T> => ({
      problem: { type: 'about:blank', title: 'Failed', status: 0, detail, faults: [] },
    });
    request.upload.onprogress = (event) => onProgress(event.total > 0 ? event.loaded / event.total : 0);
    request.onerror = () => done(failed('The server does not answer; nothing was kept'));
    request.onload = () => {
      try {
        const answer = JSON.parse(request.responseText) as unknown;
        done(request.status === 200 ? { answer: answer as T } : { problem: answer as Problem });
      } catch {
        done(failed('The server gave no reason'));
      }
    };
    request.open('POST', `/api/v1${path}`);
    request.send(form);
  });
}
