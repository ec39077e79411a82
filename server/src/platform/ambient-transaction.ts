/**
 * Which transaction a piece of work belongs to. Whoever asks the database while a change is made
 * asks it within that change, wherever the asking stands: stores need not be made anew for a
 * transaction, and none can wait for the connection that it holds itself.
 */
import { AsyncLocalStorage } from 'node:async_hooks';
import type { CompiledQuery, DatabaseConnection, Dialect, Driver, QueryResult } from 'kysely';

interface Open {
  readonly connection: DatabaseConnection;
  ended: boolean;
}

export class AmbientTransaction {
  private readonly current = new AsyncLocalStorage<Open | undefined>();

  /** Whether the caller stands within one. */
  get isOpen(): boolean {
    return this.open !== undefined;
  }

  /** Runs work whose queries are all asked on this connection, until it has ended. */
  async run<T>(connection: DatabaseConnection, work: () => Promise<T>): Promise<T> {
    const open: Open = { connection, ended: false };
    try {
      return await this.current.run(open, work);
    } finally {
      // What was set going in it and goes on is no part of it: from now on it waits as all others do.
      open.ended = true;
    }
  }

  /** Runs work that is no part of the transaction in which it was begun. */
  outside<T>(work: () => T): T {
    return this.current.run(undefined, work);
  }

  /** The same dialect, whose connection is the transaction's within one. */
  dialect(base: Dialect): Dialect {
    return {
      createAdapter: () => base.createAdapter(),
      createIntrospector: (db) => base.createIntrospector(db),
      createQueryCompiler: () => base.createQueryCompiler(),
      createDriver: () => this.driver(base.createDriver()),
    };
  }

  private driver(base: Driver): Driver {
    return {
      init: () => base.init(),
      destroy: () => base.destroy(),
      beginTransaction: (connection, settings) => base.beginTransaction(connection, settings),
      commitTransaction: (connection) => base.commitTransaction(connection),
      rollbackTransaction: (connection) => base.rollbackTransaction(connection),
      acquireConnection: async () => (this.open ? new Lent(this.open) : base.acquireConnection()),
      releaseConnection: async (connection) => {
        if (!(connection instanceof Lent)) await base.releaseConnection(connection);
      },
    };
  }

  private get open(): Open | undefined {
    const open = this.current.getStore();
    return open?.ended === false ? open : undefined;
  }
}

/** The connection of a transaction, in the hands of somebody who asks within it. */
class Lent implements DatabaseConnection {
  constructor(private readonly open: Open) {}

  executeQuery<R>(query: CompiledQuery): Promise<QueryResult<R>> {
    if (this.open.ended) throw new Error('a query was asked in a transaction that has ended');
    return this.open.connection.executeQuery(query);
  }

  streamQuery(): never {
    throw new Error('rows are not streamed within a transaction: everybody would wait for their reader');
  }
}
