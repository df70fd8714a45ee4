import type { Client } from '@libsql/client';

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

/** A client whose statements, batches and beginnings of transactions wait for locks. */
export function patientClient(client: Client): Client {
  const waiting = new Set<PropertyKey>(['execute', 'batch', 'migrate', 'executeMultiple', 'transaction']);
  return new Proxy(client, {
    get(target, key) {
      const value = Reflect.get(target, key, target) as unknown;
      if (typeof value !== 'function') return value;
      const method = value.bind(target) as (...args: unknown[]) => Promise<unknown>;
      return waiting.has(key) ? (...args: unknown[]) => patiently(() => method(...args)) : method;
    },
  });
}
