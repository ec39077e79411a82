/** Questions at even intervals, whatever the answers take: what each waited is its own. */
import { Agent, request } from 'node:http';
import { setTimeout as wait } from 'node:timers/promises';

export interface Waited {
  /** What 99 of 100 waited at most, and the longest, in milliseconds. */
  readonly p99: number;
  readonly longest: number;
  readonly failed: number;
}

/** Asks an address `aSecond` times a second for so many seconds, as a browser asks. */
export async function askEvenly(address: string, aSecond: number, seconds: number): Promise<Waited> {
  const agent = new Agent({ keepAlive: true, maxSockets: 10 });
  const begun = performance.now();
  const asked: Promise<number | undefined>[] = [];
  for (let i = 0; i < aSecond * seconds; i++) {
    asked.push(ask(address, agent));
    await wait(Math.max(0, begun + ((i + 1) * 1000) / aSecond - performance.now()));
  }
  const waits = (await Promise.all(asked)).filter((ms) => ms !== undefined).sort((a, b) => a - b);
  agent.destroy();
  return {
    p99: Math.round(waits[Math.floor(0.99 * (waits.length - 1))] ?? NaN),
    longest: Math.round(waits.at(-1) ?? NaN),
    failed: asked.length - waits.length,
  };
}

/** Milliseconds until the whole answer is there; nothing when it does not come. */
function ask(address: string, agent: Agent): Promise<number | undefined> {
  const begun = performance.now();
  return new Promise((done) => {
    request(address, { agent, headers: { 'accept-encoding': 'gzip, br' } }, (answer) => {
      answer.resume();
      answer.on('end', () => done(answer.statusCode === 200 ? performance.now() - begun : undefined));
    })
      .on('error', () => done(undefined))
      .end();
  });
}
