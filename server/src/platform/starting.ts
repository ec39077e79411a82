/** What is answered while the server opens its data: that it is at work, at what, and when to ask again. */
import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Problem } from '@vatline/contract/endpoint';

const AGAIN_SECONDS = 2;

/** Answers every request with 503; `doing` tells what is being done at the moment. */
export function whileStarting(doing: () => string) {
  return (request: IncomingMessage, response: ServerResponse): void => {
    request.resume();
    const isApi = request.url?.startsWith('/api') === true;
    const [type, body] = isApi
      ? ['application/problem+json', JSON.stringify(problem(doing()))]
      : ['text/html; charset=utf-8', page(doing())];
    response
      .writeHead(503, {
        'content-type': type,
        'retry-after': String(AGAIN_SECONDS),
        'cache-control': 'no-store',
      })
      .end(body);
  };
}

function problem(doing: string): Problem {
  return {
    type: 'about:blank',
    title: 'Not yet',
    status: 503,
    detail: `Vat Line is starting: ${doing}`,
    faults: [],
  };
}

function page(doing: string): string {
  return `<!doctype html>
<html lang="en-GB">
<head>
<meta charset="utf-8">
<meta http-equiv="refresh" content="${AGAIN_SECONDS}">
<title>Vat Line is starting</title>
<style>
body { margin: 0; padding: 20vh 10vw; background: #F6F3EC; color: #1F2B30; font: 16px/1.45 sans-serif; }
p { color: #5C6A70; }
@media (prefers-color-scheme: dark) { body { background: #182024; color: #E9E4D8; } p { color: #A9B4B8; } }
</style>
</head>
<body>
<h1>Vat Line is starting</h1>
<p role="status">${escaped(doing)}</p>
<p>This page looks again every ${AGAIN_SECONDS} seconds and goes on by itself.</p>
</body>
</html>
`;
}

function escaped(text: string): string {
  return text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
}
