/** One stream of server-sent events: each message lists the topics whose data changed. */
import type { Request, Response } from 'express';
import { partsOf, type Topic, type TopicKind } from '@vatline/contract/topics';

const GATHER_MS = 150;
const HEARTBEAT_MS = 25_000;

/** Gathers changes for a moment and tells every listener once. */
export class Live {
  private readonly listeners = new Set<Response>();
  private readonly changed = new Set<Topic>();
  private timer: NodeJS.Timeout | undefined;
  private readonly heartbeat = setInterval(() => this.write(': still here\n\n'), HEARTBEAT_MS).unref();

  /** `hear` is told of every change at once, before any listener. */
  constructor(private readonly hear: (topics: readonly Topic[]) => void = () => undefined) {}

  changedTopics(...topics: Topic[]): void {
    this.hear(topics);
    for (const topic of topics) this.changed.add(topic);
    this.timer ??= setTimeout(() => this.flush(), GATHER_MS).unref();
  }

  readonly handler = (_request: Request, response: Response): void => {
    response.writeHead(200, {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      connection: 'keep-alive',
    });
    response.write(': hello\n\n');
    this.listeners.add(response);
    response.on('close', () => this.listeners.delete(response));
  };

  close(): void {
    clearInterval(this.heartbeat);
    clearTimeout(this.timer);
    for (const listener of this.listeners) listener.end();
  }

  private flush(): void {
    this.timer = undefined;
    const message = `data: ${JSON.stringify(gathered([...this.changed]))}\n\n`;
    this.changed.clear();
    this.write(message);
  }

  private write(message: string): void {
    for (const listener of this.listeners) listener.write(message);
  }
}

/** More single things of a kind than these are told as all of the kind. */
const MOST_OF_A_KIND = 50;

/** Without what is said already: one thing where all of its kind are named. */
function gathered(topics: readonly Topic[]): Topic[] {
  const byKind = new Map<TopicKind, Topic[]>();
  for (const topic of topics) {
    const [kind] = partsOf(topic);
    const those = byKind.get(kind);
    if (those) those.push(topic);
    else byKind.set(kind, [topic]);
  }
  return [...byKind].flatMap(([kind, those]) =>
    those.length > MOST_OF_A_KIND || those.includes(kind) ? [kind] : those,
  );
}
