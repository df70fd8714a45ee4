import path from 'node:path';
import { createClient } from '@libsql/client';
import { OrvidError } from '@/core/errors';
import { singleton } from '../singleton';

/**
 * One server works on a data folder: it holds a lock of a database file of its own, which the system lets go of whenever and however it ends.
 * @returns what lets go of it before that
 * @throws OrvidError `conflict` where another one has it
 */
export async function claimFolder(dataDir: string): Promise<() => void> {
  const client = createClient({ url: `file:${path.join(dataDir, 'in-use.db')}`, timeout: 0, concurrency: 1 });
  try {
    const held = await client.transaction('write');
    // Kept from being collected by what holds it.
    const claims = singleton('folder-claims', () => new Set<unknown>());
    claims.add(held);
    return () => {
      claims.delete(held);
      held.close();
      client.close();
    };
  } catch (thrown) {
    client.close();
    if (!/BUSY|locked/.test(String((thrown as Error).message))) throw thrown;
    throw new OrvidError(
      'conflict',
      `Another Orvid server works on ${dataDir}.`,
      'Nothing was touched. Use that one, or give this one a folder of its own by ORVID_DATA_DIR.',
    );
  }
}
