/**
 * What somebody outside is asked for, who answers after a while: asked once and heard once, whatever
 * stop comes between. A request is a row before it is asked; its operation goes by the row's id.
 */
import { EstateError, type Operation } from '../estate/driver/operations.ts';
import type { Parts } from '../platform/parts.ts';

interface Asking<Row> {
  /** Of the keys of its operations. */
  readonly prefix: string;
  /** Those that have no answer yet. */
  open(): Promise<readonly Row[]>;
  begin(key: string, row: Row): Promise<unknown>;
  /** Writes the answer down once, however often it is called; the refusal is empty where it was granted. */
  answered(id: string, refusal: string): Promise<void>;
}

export class OutsideRequests<Row extends { readonly id: string }> {
  constructor(
    private readonly parts: Pick<Parts, 'estate'>,
    private readonly asking: Asking<Row>,
  ) {}

  async ask(row: Row): Promise<void> {
    try {
      await this.asking.begin(this.asking.prefix + row.id, row);
    } catch (error) {
      if (!(error instanceof EstateError)) throw error;
      await this.asking.answered(row.id, error.message);
    }
  }

  /** Hears what is answered; to be called once. */
  hear(): void {
    this.parts.estate.operations.onEnd(async (operation) => {
      if (operation.key.startsWith(this.asking.prefix)) await this.heard(operation);
    });
  }

  /** After a stop: what was not asked is asked, and what was answered meanwhile is heard. */
  async resume(): Promise<void> {
    for (const row of await this.asking.open()) {
      const operation = await this.parts.estate.operations.get(this.asking.prefix + row.id);
      if (!operation) await this.ask(row);
      else if (operation.state !== 'running') await this.heard(operation);
    }
  }

  private heard({ key, error }: Operation): Promise<void> {
    return this.asking.answered(key.slice(this.asking.prefix.length), error?.message ?? '');
  }
}
