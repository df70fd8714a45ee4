import { parseEqualizerFile, writeEqualizerFile, type FileEqualizer } from '@/core/formats';
import * as z from 'zod';
import {
  anyProcessorSchema,
  batch,
  findStrip,
  freeLetter,
  newId,
  withEqualizers,
  type Band,
  type BandSettings,
  type ChainProcessor,
  type Edit,
  type Equalizer,
} from '@/core/song';
import type { Desk } from '../desk/desk';
import { useSongStore } from './song-store';
import { equalizerFor, useSelection } from './selection';
import { songOf } from './live-song';
import { copiesOn } from './processor-edits';

/** What goes from track to track: one band or more to add, a whole equalizer, or any processor to add. */
export interface Copied {
  kind: 'band' | 'equalizer' | 'processor';
  /** An equalizer file; of a processor, the text that {@link copyOfProcessor} makes. */
  text: string;
}

const settings = ({ id: _, letter: __, ...rest }: Band): BandSettings => rest;

/** An equalizer, or some bands of it, as a file. */
function equalizerAsFile({ phase, outputGainDb, bands }: Equalizer, only?: string): FileEqualizer {
  const chosen = only ? bands.filter(({ id }) => id === only) : bands;
  return { phase, outputGainDb: only ? 0 : outputGainDb, bands: chosen.map(settings) };
}

export const copyOf = (equalizer: Equalizer, only?: string): Copied => ({
  kind: only ? 'band' : 'equalizer',
  text: writeEqualizerFile(equalizerAsFile(equalizer, only)),
});

const processorFile = z.strictObject({
  format: z.literal('orvid.processor'),
  version: z.literal(1),
  processor: anyProcessorSchema,
});

export const copyOfProcessor = (processor: ChainProcessor): Copied => ({
  kind: 'processor',
  text: JSON.stringify({ format: 'orvid.processor', version: 1, processor }, null, 2),
});

/** The processor that a text stands for; null for another text. */
export function processorIn(text: string): ChainProcessor | null {
  try {
    return processorFile.parse(JSON.parse(text)).processor;
  } catch {
    return null;
  }
}

function withIdentities(bands: readonly BandSettings[], taken: readonly string[]): Band[] {
  const letters = [...taken];
  return bands.map((band) => {
    const letter = freeLetter(letters);
    letters.push(letter);
    return { ...band, id: newId(10), letter };
  });
}

/** The edit that adds bands to the equalizers of some strips. */
export function addBands(desk: Desk, stripIds: readonly string[], bands: readonly BandSettings[]): Edit | null {
  const song = songOf(desk);
  return batch(
    stripIds.flatMap((stripId): Edit[] => {
      const strip = findStrip(song, stripId);
      const equalizer = strip && equalizerFor(desk, strip);
      if (!equalizer) return [];
      const made = withIdentities(
        bands,
        equalizer.bands.map(({ letter }) => letter),
      );
      return made.map((band, i) => ({
        kind: 'band.add',
        stripId,
        equalizerId: equalizer.id,
        band,
        index: equalizer.bands.length + i,
      }));
    }),
  );
}

/** The edit that gives some strips a whole equalizer in place of theirs. */
export function putEqualizer(
  desk: Desk,
  stripIds: readonly string[],
  { phase, outputGainDb, bands }: FileEqualizer,
): Edit | null {
  const song = songOf(desk);
  return batch(
    stripIds.flatMap((stripId): Edit[] => {
      const strip = findStrip(song, stripId);
      const old = strip && equalizerFor(desk, strip);
      if (!old) return [];
      const next: Equalizer = { ...old, phase, outputGainDb, enabled: true, bands: withIdentities(bands, []) };
      return [
        {
          kind: 'chain.set',
          stripId,
          chain: withEqualizers(strip.chain, (equalizer) => (equalizer.id === old.id ? next : equalizer)),
        },
      ];
    }),
  );
}

/** Puts what was copied on strips: a band is added, an equalizer takes the place of theirs. @throws OrvidError for what is no equalizer file */
export function putCopied(desk: Desk, stripIds: readonly string[], { kind, text }: Copied): void {
  if (kind === 'processor') {
    const processor = processorIn(text);
    if (!processor) return;
    const song = songOf(desk);
    const edits = copiesOn(stripIds, processor, (id) => findStrip(song, id)?.chain.length ?? 0);
    useSongStore.of(desk).edit(batch(edits), 'Paste a processor');
    const { stripId, chooseProcessor } = useSelection.of(desk);
    const made = edits.find((edit) => edit.kind === 'processor.add' && edit.stripId === stripId);
    if (made?.kind === 'processor.add') chooseProcessor(made.processor.id);
    return;
  }
  const file = parseEqualizerFile(text, 'What was copied');
  const edit = kind === 'band' ? addBands(desk, stripIds, file.bands) : putEqualizer(desk, stripIds, file);
  useSongStore.of(desk).edit(edit, kind === 'band' ? 'Paste a band' : 'Paste an equalizer');
  chooseNewest(desk);
}

/** Chooses the last band of the chosen strip: the one that came in. */
export function chooseNewest(desk: Desk): void {
  const strip = findStrip(songOf(desk), useSelection.of(desk).stripId);
  const band = strip && equalizerFor(desk, strip)?.bands.at(-1);
  useSelection.of(desk).chooseBand(band?.id ?? null);
}
