import { stat, utimes } from 'node:fs/promises';
import * as z from 'zod';
import { packedBytes } from '@/core/engine';
import { OrvidError } from '@/core/errors';
import type { StoredRecording } from './measure-recording';
import { readIfWhole, writeSealed } from './sealed';
import { frozenPaths, settle } from './store';

/**
 * Renders of frozen tracks lie among the recordings, under the hash of what they are made of. No song names them: they are made again when they are asked for, and cleared
 * with other files that nobody knows.
 */
const factsSchema = z.object({
  name: z.string(),
  channels: z.union([z.literal(1), z.literal(2)]),
  rateHz: z.int(),
  lengthFrames: z.int(),
  pageChecksums: z.string(),
});
export type FrozenFacts = z.infer<typeof factsSchema>;
/** What comes out of a chain is no whole number. */
export const FROZEN_BITS = 32;

/** @returns a render of a frozen track; undefined where there is none, or no whole one */
export async function findFrozen(audioId: string): Promise<StoredRecording | undefined> {
  const paths = frozenPaths(audioId);
  const sealed = await readIfWhole(paths.facts);
  if (!sealed) return undefined;
  const { name, pageChecksums, ...shape } = factsSchema.parse(JSON.parse(Buffer.from(sealed).toString()));
  const size = await stat(paths.pages).then(
    (found) => found.size,
    () => -1,
  );
  if (size !== packedBytes(shape.lengthFrames * shape.channels, FROZEN_BITS)) return undefined;
  const pages = { path: paths.pages, checksums: pageChecksums, name, rateHz: shape.rateHz, bits: FROZEN_BITS } as const;
  return { pages, ...shape };
}

/** Keeps a render. @param pages a finished temporary file */
export async function keepFrozen(audioId: string, pages: string, facts: FrozenFacts): Promise<void> {
  const paths = frozenPaths(audioId);
  await settle(pages, paths.pages);
  await writeSealed(paths.facts, Buffer.from(JSON.stringify(facts)));
}

/** One that is asked for again is not cleared as something that nobody has needed for long. */
export async function stillWanted(audioId: string): Promise<void> {
  const { pages, facts } = frozenPaths(audioId);
  for (const file of [pages, facts]) await utimes(file, new Date(), new Date());
}

/** What is said of one that is damaged: it is looked through, and rendered again, when it is asked for. */
export const frozenDamaged = (name: string): OrvidError =>
  new OrvidError(
    'damaged',
    `The render of the frozen track “${name}” is damaged.`,
    'Its recording is whole: play the track live, and freeze it again.',
  );
