import {
  parseChainFile,
  parseEqualizerFile,
  processorIn,
  writeChainFile,
  writeEqualizerFile,
  writeProcessorFile,
  type FileEqualizer,
} from '@/core/formats';
import {
  batch,
  findStrip,
  freeLetter,
  newId,
  withEqualizers,
  type Band,
  type BandSettings,
  type Chain,
  type ChainProcessor,
  type Edit,
  type Equalizer,
  type GivesWay,
  type Song,
} from '@/core/song';
import type { Desk } from '../desk/desk';
import { useSongStore } from './song-store';
import { equalizerFor, useSelection } from './selection';
import { songOf } from './live-song';
import { adopted, adoptedKey, copiesOn } from './processor-edits';

/** What goes from track to track: one band or more to add, a whole equalizer, any processor to add, or a whole chain. */
export interface Copied {
  kind: 'band' | 'equalizer' | 'processor' | 'chain';
  /** An equalizer file; of a processor or a chain, its own file. */
  text: string;
  /** How each band moves with a level, which an equalizer file does not say. */
  givesWay?: readonly (GivesWay | null)[];
}

const settings = ({ id: _, letter: __, ...rest }: Band): BandSettings => rest;

/** An equalizer, or one band of it, as a file. */
export function copyOf({ phase, outputGainDb, bands }: Equalizer, only?: string): Copied {
  const chosen = only ? bands.filter(({ id }) => id === only) : bands;
  return {
    kind: only ? 'band' : 'equalizer',
    text: writeEqualizerFile({ phase, outputGainDb: only ? 0 : outputGainDb, bands: chosen.map(settings) }),
    ...(chosen.some(({ givesWay }) => givesWay) && { givesWay: chosen.map(({ givesWay }) => givesWay) }),
  };
}

export const copyOfProcessor = (processor: ChainProcessor): Copied => ({
  kind: 'processor',
  text: writeProcessorFile(processor),
});

export const copyOfChain = (chain: Chain): Copied => ({ kind: 'chain', text: writeChainFile(chain) });

/** A band as it is copied: with how it moves with a level. */
type CopiedBand = BandSettings & { givesWay?: GivesWay | null };

function withIdentities(song: Song, stripId: string, bands: readonly CopiedBand[], taken: readonly string[]): Band[] {
  const letters = [...taken];
  return bands.map((band) => {
    const letter = freeLetter(letters);
    letters.push(letter);
    const { givesWay = null } = band;
    const adopted = givesWay && { ...givesWay, key: adoptedKey(song, stripId, givesWay.key) };
    return { ...band, id: newId(10), letter, givesWay: adopted };
  });
}

/** The edit that adds bands to the equalizers of some strips. */
export function addBands(desk: Desk, stripIds: readonly string[], bands: readonly CopiedBand[]): Edit | null {
  const song = songOf(desk);
  return batch(
    stripIds.flatMap((stripId): Edit[] => {
      const strip = findStrip(song, stripId);
      const equalizer = strip && equalizerFor(desk, strip);
      if (!equalizer) return [];
      const made = withIdentities(
        song,
        stripId,
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
  { phase, outputGainDb, bands }: Omit<FileEqualizer, 'bands'> & { bands: readonly CopiedBand[] },
): Edit | null {
  const song = songOf(desk);
  return batch(
    stripIds.flatMap((stripId): Edit[] => {
      const strip = findStrip(song, stripId);
      const old = strip && equalizerFor(desk, strip);
      if (!old) return [];
      const next: Equalizer = {
        ...old,
        phase,
        outputGainDb,
        enabled: true,
        bands: withIdentities(song, stripId, bands, []),
      };
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

/** Puts copies of a processor at the end of chains, and shows the one of the chosen strip. */
function pasteProcessor(desk: Desk, stripIds: readonly string[], processor: ChainProcessor): void {
  const edits = copiesOn(songOf(desk), stripIds, processor);
  useSongStore.of(desk).edit(batch(edits), 'Paste a processor');
  const { stripId, chooseProcessor } = useSelection.of(desk);
  const made = edits.find((edit) => edit.stripId === stripId);
  if (made) chooseProcessor(made.processor.id);
}

/** Gives strips a whole chain in place of theirs. */
function putChain(desk: Desk, stripIds: readonly string[], chain: Chain): void {
  const song = songOf(desk);
  const edits = stripIds.map((stripId): Edit => ({
    kind: 'chain.set',
    stripId,
    chain: chain.map((processor) => adopted(song, stripId, processor)),
  }));
  useSongStore.of(desk).edit(batch(edits), 'Use a chain');
  useSelection.of(desk).chooseProcessor(null);
}

/**
 * Puts what was copied on strips: a band or a processor is added, an equalizer or a chain takes the place of theirs.
 * @throws OrvidError for what is no such file
 */
export function putCopied(desk: Desk, stripIds: readonly string[], { kind, text, givesWay }: Copied): void {
  if (kind === 'processor') {
    const processor = processorIn(text);
    if (processor) pasteProcessor(desk, stripIds, processor);
    return;
  }
  if (kind === 'chain') return putChain(desk, stripIds, parseChainFile(text, 'What was copied'));
  const file = parseEqualizerFile(text, 'What was copied');
  const bands = file.bands.map((band, i) => ({ ...band, givesWay: givesWay?.[i] ?? null }));
  const edit = kind === 'band' ? addBands(desk, stripIds, bands) : putEqualizer(desk, stripIds, { ...file, bands });
  useSongStore.of(desk).edit(edit, kind === 'band' ? 'Paste a band' : 'Paste an equalizer');
  chooseNewest(desk);
}

/** Chooses the last band of the chosen strip: the one that came in. */
export function chooseNewest(desk: Desk): void {
  const strip = findStrip(songOf(desk), useSelection.of(desk).stripId);
  const band = strip && equalizerFor(desk, strip)?.bands.at(-1);
  useSelection.of(desk).chooseBand(band?.id ?? null);
}
