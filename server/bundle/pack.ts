import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { ZipFile } from 'yazl';
import { OrvidError } from '@/core/errors';
import type { Song } from '@/core/song';
import { BUNDLE_VERSION, entryName, MANIFEST_NAME, type Manifest } from './manifest';

export interface PackTask {
  song: Song;
  /** The files that the recordings came in as. */
  originals: { audioId: string; sha256: string; name: string; path: string }[];
  /** Must not exist. */
  out: string;
}

/** All entries of a bundle have one time, so that the same song is the same file. */
const MADE_AT = new Date('2026-01-01T12:00:00Z');

/** Writes a bundle, piece by piece; a long one as a 64-bit zip. @throws OrvidError `damaged` for an original that is not what it was */
export async function packSong(
  { song, originals, out }: PackTask,
  report: (step: string, progress: number) => void,
): Promise<{ bytes: number }> {
  const sizes = await Promise.all(originals.map(async ({ path }) => (await stat(path)).size));
  const total = sizes.reduce((sum, size) => sum + size, 1);
  const manifest: Manifest = {
    format: 'orvid.bundle',
    version: BUNDLE_VERSION,
    song,
    recordings: originals.map(({ audioId, sha256, name }, i) => ({
      audioId,
      sha256,
      bytes: sizes[i],
      file: entryName(i, name),
      name,
    })),
  };
  const zip = new ZipFile();
  let failed: Error | undefined;
  const fail = (error: Error) => {
    failed ??= error;
    (zip.outputStream as unknown as { destroy: (error: Error) => void }).destroy(error);
  };
  zip.on('error', fail as never);
  zip.addBuffer(Buffer.from(JSON.stringify(manifest)), MANIFEST_NAME, { mtime: MADE_AT });
  let done = 0;
  originals.forEach(({ path, name, sha256 }, i) => {
    const size = sizes[i];
    zip.addReadStreamLazy(manifest.recordings[i].file, { compress: false, mtime: MADE_AT, size }, (give) => {
      const hash = createHash('sha256');
      const watch = new Transform({
        transform(chunk: Buffer, _, next) {
          hash.update(chunk);
          done += chunk.length;
          report('packing', done / total);
          next(null, chunk);
        },
        flush(next) {
          const isWhole = hash.digest('hex') === sha256;
          next(
            isWhole
              ? null
              : new OrvidError(
                  'damaged',
                  `“${name}” is damaged on the disk: it is not what came in.`,
                  'Nothing was packed.',
                ),
          );
        },
      });
      watch.on('error', fail);
      const file = createReadStream(path);
      file.on('error', (error) => watch.destroy(error));
      file.pipe(watch);
      give(null, watch);
    });
  });
  zip.end();
  try {
    await pipeline(zip.outputStream, createWriteStream(out, { flags: 'wx' }));
  } catch (thrown) {
    throw failed ?? thrown;
  }
  return { bytes: (await stat(out)).size };
}
