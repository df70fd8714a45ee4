import path from 'node:path';
import { OrvidError } from '@/core/errors';
import { checkFolder } from '@/server/check';
import { backUp, restore as restoreDatabase } from '@/server/database/backup';
import { closeDatabase } from '@/server/database/client';
import { endPools } from '@/server/workers/pool';
import { refuseOddOutput, resolvePath } from './output';

/** Commands about the data folder. */

export async function backup(file: string): Promise<void> {
  const target = resolvePath(file);
  await refuseOddOutput(target);
  await backUp(target);
  await closeDatabase();
  console.log(`The database was copied to ${target}. Recordings never change: copy the folder audio beside it.`);
}

export async function restore(file: string): Promise<void> {
  const before = await restoreDatabase(resolvePath(file));
  await closeDatabase();
  console.log(`The database is that of ${path.basename(file)} now. What it was before lies in ${before}.`);
}

const MARKS = { mended: 'mended  ', damaged: 'DAMAGED ', remark: 'remark  ' } as const;

export async function check(): Promise<void> {
  const { songs, recordings, findings } = await checkFolder((line) => console.error(line));
  await endPools();
  await closeDatabase();
  for (const { state, text } of findings) console.log(`${MARKS[state]}${text}`);
  const damaged = findings.filter(({ state }) => state === 'damaged').length;
  console.log(`${songs} songs, ${recordings} recordings: ${damaged === 0 ? 'all is well' : `${damaged} damaged`}.`);
  if (damaged > 0) throw new OrvidError('damaged', 'Not everything could be mended.');
}
