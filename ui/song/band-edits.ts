import {
  findStrip,
  firstEqualizer,
  freeLetter,
  newBandSettings,
  newId,
  type Band,
  type BandType,
  type Edit,
  type Song,
} from '@/core/song';
import { currentSong, useSongStore } from './song-store';
import { chosenStrip, pathIn, useSelection } from './selection';

/** The edits that gestures on bands make; each gives null where there is nothing to act on. */

/** What changes of a band. */
export type BandChanges = Partial<Omit<Band, 'id'>>;

export function setBand(song: Song, stripId: string, bandId: string, changes: BandChanges): Edit | null {
  const strip = findStrip(song, stripId);
  const equalizer = strip && firstEqualizer(strip);
  return equalizer ? { kind: 'band.set', stripId, equalizerId: equalizer.id, bandId, changes } : null;
}

/** @param bandId for a gesture that makes the same band again and again while it goes on */
export function makeBand(
  song: Song,
  stripId: string,
  shape: { type: BandType; frequencyHz: number } & BandChanges,
  bandId = newId(10),
): { edit: Edit; band: Band } | null {
  const strip = findStrip(song, stripId);
  const equalizer = strip && firstEqualizer(strip);
  if (!equalizer) return null;
  const letter = freeLetter(equalizer.bands.map((band) => band.letter));
  const band: Band = { ...newBandSettings(shape.type, shape.frequencyHz), ...shape, id: bandId, letter };
  return { edit: { kind: 'band.add', stripId, equalizerId: equalizer.id, band, index: equalizer.bands.length }, band };
}

/** Adds a band to the chosen strip, on the path that is worked on, and chooses it. */
export function addBand(shape: { type: BandType; frequencyHz: number } & BandChanges, label = 'Add a band'): void {
  const { path } = useSelection.getState();
  const strip = chosenStrip();
  const made = makeBand(currentSong(), strip.id, { channel: pathIn(strip, path), ...shape });
  if (!made) return;
  useSongStore.getState().edit(made.edit, label);
  useSelection.getState().chooseBand(made.band.id);
}

export function removeBand(stripId: string, bandId: string): void {
  const strip = findStrip(currentSong(), stripId);
  const equalizer = strip && firstEqualizer(strip);
  if (!equalizer) return;
  const at = equalizer.bands.findIndex((band) => band.id === bandId);
  useSongStore.getState().edit({ kind: 'band.remove', stripId, equalizerId: equalizer.id, bandId }, 'Remove a band');
  useSelection.getState().chooseBand((equalizer.bands[at + 1] ?? equalizer.bands[at - 1])?.id ?? null);
}

export function changeBand(stripId: string, bandId: string, changes: BandChanges, label: string): void {
  useSongStore.getState().edit(setBand(currentSong(), stripId, bandId, changes), label);
}

/** A change by a key or the wheel: quick repetitions are one step of undo. */
export function changeBandByKey(stripId: string, bandId: string, changes: BandChanges, label: string): void {
  const mergeKey = `${bandId}/${Object.keys(changes).sort().join()}`;
  useSongStore.getState().editByKey(setBand(currentSong(), stripId, bandId, changes), label, mergeKey);
}
