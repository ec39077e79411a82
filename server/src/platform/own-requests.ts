/**
 * Whose requests are served. A page of somebody else's that a person has open can send requests
 * here, and a name of somebody else's can be pointed at this machine; both are told by headers that
 * browsers always send and pages cannot change.
 */
import { networkInterfaces } from 'node:os';
import type { Request, RequestHandler } from 'express';
import { Refusal } from './problem.ts';

const READING = new Set(['GET', 'HEAD', 'OPTIONS']);

/** `hosts` are names besides loopback by which people reach the server. */
export function ownRequestsOnly(hosts: readonly string[]): RequestHandler {
  const names = new Set(hosts.map((name) => name.toLowerCase()));
  return (request, _response, next) => {
    const host = request.headers.host ?? '';
    const name = nameIn(host);
    if (!isLoopback(name) && !names.has(name))
      throw new Refusal(
        421,
        'Not this server',
        `This server is not ${name || 'without a name'}; name it in VATLINE_HOSTS if it is to be reached so`,
      );
    if (!READING.has(request.method) && isForeign(request, host))
      throw new Refusal(403, 'Not from here', 'This request was sent by a page of another origin');
    next();
  };
}

/** The names of a server that listens on an address: its own, or every address of the machine. */
export function namesOf(listening: string): string[] {
  if (listening !== '0.0.0.0' && listening !== '::') return [listening];
  return Object.values(networkInterfaces())
    .flatMap((list) => list ?? [])
    .map(({ address }) => address);
}

/** Programs that are no browsers send neither header. */
function isForeign(request: Request, host: string): boolean {
  const site = request.headers['sec-fetch-site'];
  if (site !== undefined && site !== 'same-origin') return true;
  const { origin } = request.headers;
  if (origin === undefined) return false;
  return URL.canParse(origin) ? new URL(origin).host !== hostIn(host) : true;
}

function hostIn(host: string): string {
  return URL.canParse(`http://${host}`) ? new URL(`http://${host}`).host : '';
}

function nameIn(host: string): string {
  if (!URL.canParse(`http://${host}`)) return '';
  return new URL(`http://${host}`).hostname.replace(/^\[(.*)\]$/, '$1');
}

function isLoopback(name: string): boolean {
  return name === 'localhost' || name === '::1' || /^127(\.\d{1,3}){3}$/.test(name);
}
