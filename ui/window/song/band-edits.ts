import {
  changesNothing,
  emptyEqualizer,
  equalizersOf,
  equalizerWith,
  findStrip,
  freeLetter,
  newBandSettings,
  newId,
  type Band,
  type BandChanges,
  type BandType,
  type Edit,
  type Song,
} from '@/core/song';
import type { Desk } from '../desk/desk';
import { useSongStore } from './song-store';
import { chosenStrip, equalizerFor, pathIn, useSelection } from './selection';
import { songOf } from './live-song';

/** The edits that gestures on bands make; each gives null where there is nothing to act on. */

/** What a band is made of that there was not before. */
type NewBand = { type: BandType; frequencyHz: number } & Partial<Omit<Band, 'id'>>;

/**
 * @param from the band as it was when the gesture began: of the changes only those that differ from it are made, so that what another
 *   window sets meanwhile stays
 */
export function setBand(song: Song, stripId: string, bandId: string, changes: BandChanges, from?: Band): Edit | null {
  const strip = findStrip(song, stripId);
  const equalizer = strip && equalizerWith(strip, bandId);
  if (!equalizer) return null;
  const made = from
    ? (Object.fromEntries(
        Object.entries(changes).filter(([field, value]) => !changesNothing(from[field as keyof Band], value)),
      ) as BandChanges)
    : changes;
  if (Object.keys(made).length === 0) return null;
  return { kind: 'band.set', stripId, equalizerId: equalizer.id, bandId, changes: made };
}

/**
 * A strip without an equalizer gets one, at the end of its chain.
 * @param bandId for a gesture that makes the same band again and again while it goes on
 * @param equalizerId the equalizer that it goes to; the default is the first
 */
export function makeBand(
  song: Song,
  stripId: string,
  shape: NewBand,
  bandId = newId(10),
  equalizerId?: string,
): { edit: Edit; band: Band } | null {
  const strip = findStrip(song, stripId);
  if (!strip) return null;
  const all = equalizersOf(strip.chain);
  const equalizer = all.find(({ id }) => id === equalizerId) ?? all[0];
  const letter = freeLetter((equalizer?.bands ?? []).map((band) => band.letter));
  const band: Band = { ...newBandSettings(shape.type, shape.frequencyHz), ...shape, id: bandId, letter };
  if (!equalizer) {
    const processor = { ...emptyEqualizer(newId(10)), bands: [band] };
    return { edit: { kind: 'processor.add', stripId, processor, index: strip.chain.length }, band };
  }
  return { edit: { kind: 'band.add', stripId, equalizerId: equalizer.id, band, index: equalizer.bands.length }, band };
}

/** Adds a band to the chosen strip, on the path that is worked on, and chooses it. */
export function addBand(desk: Desk, shape: NewBand, label = 'Add a band'): void {
  const { path } = useSelection.of(desk);
  const strip = chosenStrip(desk);
  const equalizerId = equalizerFor(desk, strip)?.id;
  const channel = pathIn(strip, equalizerId, path);
  const made = makeBand(songOf(desk), strip.id, { channel, ...shape }, undefined, equalizerId);
  if (!made) return;
  if (!useSongStore.of(desk).edit(made.edit, label)) return;
  showEqualizerOf(desk, made.band.id);
  useSelection.of(desk).chooseBand(made.band.id, { isFocused: true });
}

/** Puts the equalizer of a band of the chosen strip on the bench. */
function showEqualizerOf(desk: Desk, bandId: string): void {
  const equalizer = equalizerWith(chosenStrip(desk), bandId);
  if (equalizer) useSelection.of(desk).chooseProcessor(equalizer.id);
}

export function removeBand(desk: Desk, stripId: string, bandId: string): void {
  const strip = findStrip(songOf(desk), stripId);
  const equalizer = strip && equalizerWith(strip, bandId);
  if (!equalizer) return;
  const at = equalizer.bands.findIndex((band) => band.id === bandId);
  useSongStore.of(desk).edit({ kind: 'band.remove', stripId, equalizerId: equalizer.id, bandId }, 'Remove a band');
  useSelection
    .of(desk)
    .chooseBand((equalizer.bands[at + 1] ?? equalizer.bands[at - 1])?.id ?? null, { isFocused: true });
}

export function changeBand(desk: Desk, stripId: string, bandId: string, changes: BandChanges, label: string): void {
  useSongStore.of(desk).edit(setBand(songOf(desk), stripId, bandId, changes), label);
}

/** A change by a key or the wheel: quick repetitions are one step of undo. */
export function changeBandByKey(
  desk: Desk,
  stripId: string,
  bandId: string,
  changes: BandChanges,
  label: string,
): void {
  const mergeKey = `${bandId}/${label}/${Object.keys(changes).sort().join()}`;
  useSongStore.of(desk).editByKey(setBand(songOf(desk), stripId, bandId, changes), label, mergeKey);
}
