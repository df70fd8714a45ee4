import { IMPORT_THREADS } from '../workers/pool';

/**
 * Does something with each of some files, with as many at once as there are threads that read them, in their order. After a fault no other
 * is begun; what has begun is waited for.
 * @throws what the first of them threw
 */
export async function eachFile<T>(
  files: readonly T[],
  work: (file: T, index: number) => Promise<void>,
  atOnce = IMPORT_THREADS,
): Promise<void> {
  const faults: unknown[] = [];
  let next = 0;
  const goOn = async () => {
    while (next < files.length && faults.length === 0) {
      const index = next++;
      await work(files[index], index).catch((fault: unknown) => faults.push(fault));
    }
  };
  await Promise.all(Array.from({ length: atOnce }, goOn));
  if (faults.length > 0) throw faults[0];
}
