import type { ProcessorSettings } from '@/core/processors';
import {
  findStrip,
  newId,
  newProcessor,
  OWN_KEY,
  type ChainProcessor,
  type Edit,
  type Key,
  type KeyChanges,
  type ProcessorKind,
  type Range,
  type Song,
} from '@/core/song';
import type { Desk } from '../desk/desk';
import { songOf } from './live-song';
import { chosenProcessor, chosenStrip, useSelection } from './selection';
import { useSongStore } from './song-store';

/** The edits that gestures on processors make, and the steps of undo that they are. */

/** What changes of a processor that is no equalizer: of a key or a range what is named only. */
export type ProcessorChanges = Partial<ProcessorSettings> | { key: KeyChanges } | { range: Partial<Range> };

/** Sets fields of a processor that is no equalizer. */
export const setProcessor = (
  stripId: string,
  { kind, id }: Pick<ProcessorSettings, 'kind' | 'id'>,
  changes: ProcessorChanges,
): Edit => ({ kind: 'processor.set', processorKind: kind, stripId, processorId: id, changes }) as Edit;

export function changeProcessor(
  desk: Desk,
  stripId: string,
  processor: ProcessorSettings,
  changes: ProcessorChanges,
  label: string,
): void {
  useSongStore.of(desk).edit(setProcessor(stripId, processor, changes), label);
}

/** A change by a key: quick repetitions are one step of undo. */
export function changeProcessorByKey(
  desk: Desk,
  stripId: string,
  processor: ProcessorSettings,
  changes: ProcessorChanges,
  label: string,
): void {
  const mergeKey = `${processor.id}/${label}/${Object.keys(changes).sort().join()}`;
  useSongStore.of(desk).editByKey(setProcessor(stripId, processor, changes), label, mergeKey);
}

/** Gives a processor of any kind a name of its own. */
export function renameProcessor(desk: Desk, stripId: string, { kind, id }: ChainProcessor, name: string): void {
  const edit: Edit =
    kind === 'equalizer'
      ? { kind: 'equalizer.set', stripId, equalizerId: id, changes: { name } }
      : setProcessor(stripId, { kind, id }, { name });
  useSongStore.of(desk).edit(edit, 'Name of a processor');
}

/** Puts a processor behind the one on the bench, or at the end of a chain, and shows it. */
export function addProcessor(desk: Desk, processor: ChainProcessor, label: string): void {
  const strip = chosenStrip(desk);
  const shown = chosenProcessor(desk);
  const at = shown ? strip.chain.findIndex(({ id }) => id === shown.id) : -1;
  const index = at < 0 ? strip.chain.length : at + 1;
  if (useSongStore.of(desk).edit({ kind: 'processor.add', stripId: strip.id, processor, index }, label))
    useSelection.of(desk).chooseProcessor(processor.id);
}

/** A processor of a kind, as it starts. A reverb or an echo on what others are sent to is heard alone. */
export function startOf(desk: Desk, kind: ProcessorKind): ChainProcessor {
  const processor = newProcessor(kind, newId(10));
  const song = songOf(desk);
  const { stripId } = useSelection.of(desk);
  const isReturn = [...song.tracks, ...song.buses].some(({ sends }) => sends.some(({ busId }) => busId === stripId));
  return isReturn && 'dry' in processor ? { ...processor, dry: false } : processor;
}

export function removeProcessor(desk: Desk, stripId: string, processorId: string): void {
  const chain = findStrip(songOf(desk), stripId)?.chain ?? [];
  const at = chain.findIndex(({ id }) => id === processorId);
  if (at < 0) return;
  const next = chain[at + 1] ?? chain[at - 1];
  if (useSongStore.of(desk).edit({ kind: 'processor.remove', stripId, processorId }, 'Remove a processor'))
    useSelection.of(desk).chooseProcessor(next?.id ?? null);
}

/** @param to its place in the chain afterwards */
export function moveProcessor(desk: Desk, stripId: string, processorId: string, to: number): void {
  const chain = findStrip(songOf(desk), stripId)?.chain ?? [];
  const at = chain.findIndex(({ id }) => id === processorId);
  if (at < 0 || to === at || to < 0 || to >= chain.length) return;
  useSongStore.of(desk).edit({ kind: 'processor.move', stripId, processorId, index: to }, 'Order of a chain');
}

/** What a copy listens to on a strip of a song: its own sound, where what it listened to is that strip, or is not there. */
export function adoptedKey(song: Song, stripId: string, key: Key): Key {
  const isThere = key.stripId !== stripId && findStrip(song, key.stripId) !== undefined;
  return isThere ? key : { ...key, stripId: OWN_KEY };
}

/** A copy for a strip with an identity of its own, its bands too. */
export function adopted(song: Song, stripId: string, processor: ChainProcessor): ChainProcessor {
  const id = newId(10);
  if (processor.kind === 'equalizer')
    return {
      ...processor,
      id,
      bands: processor.bands.map((band) => ({
        ...band,
        id: newId(10),
        givesWay: band.givesWay && { ...band.givesWay, key: adoptedKey(song, stripId, band.givesWay.key) },
      })),
    };
  return 'key' in processor
    ? { ...processor, id, key: adoptedKey(song, stripId, processor.key) }
    : { ...processor, id };
}

/** The edits that put a copy of a processor at the end of some chains. */
export const copiesOn = (song: Song, stripIds: readonly string[], processor: ChainProcessor) =>
  stripIds.map((stripId) => ({
    kind: 'processor.add' as const,
    stripId,
    processor: adopted(song, stripId, processor),
    index: findStrip(song, stripId)?.chain.length ?? 0,
  }));
