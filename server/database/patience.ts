import type { Client, Transaction } from '@libsql/client';

/**
 * Waiting for a database that another process has locked. SQLite's own waiting stops the whole thread, so it is switched off, and what
 * finds the database locked is tried again after a pause in which everything else goes on.
 */
const PAUSE_MS = 25;
const LONGEST_PAUSE_MS = 250;
export const PATIENCE_MS = 60_000;

/** `TRANSACTION_ACTIVE`: every connection is in use by a transaction, which will end. */
const MAY_PASS = /SQLITE_(BUSY|LOCKED)|TRANSACTION_ACTIVE|database is locked/;

const mayPass = (thrown: unknown): boolean => {
  const { code, message, cause } = thrown as { code?: string; message?: string; cause?: unknown };
  return MAY_PASS.test(`${code} ${message}`) || (cause !== undefined && mayPass(cause));
};

/** Does something with the database, and again while it is locked. @throws what the last attempt threw */
export async function patiently<T>(work: () => Promise<T>, patienceMs = PATIENCE_MS): Promise<T> {
  const end = Date.now() + patienceMs;
  for (let pause = PAUSE_MS; ; pause = Math.min(LONGEST_PAUSE_MS, pause * 1.5)) {
    try {
      return await work();
    } catch (thrown) {
      if (!mayPass(thrown) || Date.now() > end) throw thrown;
    }
    await new Promise((done) => setTimeout(done, pause));
  }
}

/**
 * A client whose statements, batches and beginnings of transactions wait for locks. A connection that has once found the database locked
 * can commit nothing more, since the statement stays open in it: so each call borrows a connection of its own, and one that was refused is thrown away.
 * @param connect opens a client of one connection that does not wait by itself
 */
export function patientClient(connect: () => Client): Client {
  const spare: Client[] = [];
  let isClosed = false;
  const giveBack = (client: Client) => {
    if (isClosed) client.close();
    else spare.push(client);
  };
  const borrowed = <T>(work: (client: Client, done: () => void) => Promise<T>): Promise<T> =>
    patiently(async () => {
      if (isClosed) throw new Error('The database was closed.');
      const client = spare.pop() ?? connect();
      try {
        return await work(client, () => giveBack(client));
      } catch (thrown) {
        if (mayPass(thrown)) client.close();
        else giveBack(client);
        throw thrown;
      }
    });
  const once = <T>(work: (client: Client) => Promise<T>) =>
    borrowed(async (client, done) => {
      const result = await work(client);
      done();
      return result;
    });
  /** A transaction that gives its connection back when it is over. */
  const ending = (transaction: Transaction, done: () => void): Transaction => {
    let isOver = false;
    const end = () => {
      if (!isOver) done();
      isOver = true;
    };
    return new Proxy(transaction, {
      get(target, key) {
        const value = Reflect.get(target, key, target) as unknown;
        if (typeof value !== 'function') return value;
        const method = value.bind(target) as (...args: unknown[]) => unknown;
        if (key === 'close') return () => (method(), end());
        if (key !== 'commit' && key !== 'rollback') return method;
        return async () => {
          try {
            // SQLite has rolled it back by itself where the disk is full or broken: what is thrown then says why, and that it is over does not.
            return await (key === 'rollback' && target.closed ? target.close() : method());
          } finally {
            end();
          }
        };
      },
    });
  };
  return {
    execute: (...args: [never]) => once((client) => client.execute(...args)),
    batch: (...args) => once((client) => client.batch(...args)),
    migrate: (...args) => once((client) => client.migrate(...args)),
    executeMultiple: (...args) => once((client) => client.executeMultiple(...args)),
    sync: () => once((client) => client.sync()),
    transaction: (mode) => borrowed(async (client, done) => ending(await client.transaction(mode ?? 'write'), done)),
    reconnect: () => undefined,
    close: () => {
      isClosed = true;
      spare.splice(0).forEach((client) => client.close());
    },
    get closed() {
      return isClosed;
    },
    protocol: 'file',
  } as Client;
}
