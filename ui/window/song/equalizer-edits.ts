import { parseEqualizerFile, writeEqualizerFile, type FileEqualizer } from '@/core/formats';
import {
  batch,
  findStrip,
  firstEqualizer,
  freeLetter,
  newId,
  type Band,
  type BandSettings,
  type Edit,
  type Equalizer,
} from '@/core/song';
import type { Desk } from '../desk/desk';
import { useSongStore } from './song-store';
import { useSelection } from './selection';
import { songOf } from './live-song';

/** What goes from track to track: one band or more to add, or a whole equalizer. */
export interface Copied {
  kind: 'band' | 'equalizer';
  /** An equalizer file. */
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
      const equalizer = strip && firstEqualizer(strip);
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
      const old = strip && firstEqualizer(strip);
      if (!old) return [];
      const next: Equalizer = { ...old, phase, outputGainDb, enabled: true, bands: withIdentities(bands, []) };
      return [
        {
          kind: 'chain.set',
          stripId,
          chain: strip.chain.map((equalizer) => (equalizer.id === old.id ? next : equalizer)),
        },
      ];
    }),
  );
}

/** Puts what was copied on strips: a band is added, an equalizer takes the place of theirs. @throws OrvidError for what is no equalizer file */
export function putCopied(desk: Desk, stripIds: readonly string[], { kind, text }: Copied): void {
  const file = parseEqualizerFile(text, 'What was copied');
  const edit = kind === 'band' ? addBands(desk, stripIds, file.bands) : putEqualizer(desk, stripIds, file);
  useSongStore.of(desk).edit(edit, kind === 'band' ? 'Paste a band' : 'Paste an equalizer');
  chooseNewest(desk);
}

/** Chooses the last band of the chosen strip: the one that came in. */
export function chooseNewest(desk: Desk): void {
  const strip = findStrip(songOf(desk), useSelection.of(desk).stripId);
  const band = strip && firstEqualizer(strip)?.bands.at(-1);
  useSelection.of(desk).chooseBand(band?.id ?? null);
}
