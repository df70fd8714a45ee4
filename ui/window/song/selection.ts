import { useMemo } from 'react';
import { type Desk, deskStore } from '../desk/desk';
import { useShallow } from 'zustand/react/shallow';
import {
  findStrip,
  firstEqualizer,
  MASTER_ID,
  channelsInto,
  channelsOut,
  type Band,
  type BandChannel,
  type ChainProcessor,
  type Equalizer,
  type Strip,
  type Track,
} from '@/core/song';
import { useSong, useSongStore } from './song-store';
import { songOf } from './live-song';

/** What is chosen in this window: a track, bus or the master, and a band of it. Not part of the song. */
interface Selection {
  stripId: string;
  /** Where the last choice reached to. */
  lastId: string;
  /** Further tracks and buses that are set together with it. */
  others: readonly string[];
  bandId: string | null;
  /** The processor on the bench; null for the first equalizer. */
  processorId: string | null;
  /** Counts up when the handle of the chosen band is to take the keyboard. */
  focusAsked: number;
  /** The path of the equalizer that is worked on; `stereo` is all of them. */
  path: BandChannel;
  choosePath: (path: BandChannel) => void;
  chooseStrip: (stripId: string) => void;
  /** Takes a strip into what is set together, or out of it. */
  toggleStrip: (stripId: string) => void;
  /** Takes everything between the chosen strip and this one. @param order ids in the order of the lanes */
  extendTo: (stripId: string, order: readonly string[]) => void;
  chooseProcessor: (processorId: string | null) => void;
  /** @param options.isFocused true where its handle takes the keyboard, so that what was made or chosen can be adjusted at once */
  chooseBand: (bandId: string | null, options?: { isFocused?: boolean }) => void;
}

export const useSelection = deskStore<Selection>((desk) => (set, get) => ({
  stripId: MASTER_ID,
  lastId: MASTER_ID,
  others: [],
  bandId: null,
  processorId: null,
  focusAsked: 0,
  path: 'stereo',
  choosePath: (path) => set({ path }),
  chooseStrip: (stripId) => {
    const strip = findStrip(songOf(desk), stripId);
    const bandId = (strip && firstEqualizer(strip)?.bands[0]?.id) ?? null;
    set({ stripId, lastId: stripId, others: [], processorId: null, bandId });
  },
  toggleStrip: (toggled) => {
    const { stripId, others, chooseStrip } = get();
    if (toggled === MASTER_ID || stripId === MASTER_ID) chooseStrip(toggled);
    else if (others.includes(toggled)) set({ others: others.filter((id) => id !== toggled) });
    else if (toggled !== stripId) set({ others: [...others, toggled] });
    else if (others.length > 0) {
      const [next, ...rest] = others;
      chooseStrip(next);
      set({ others: rest });
    }
  },
  extendTo: (last, order) => {
    const { stripId } = get();
    const [from, to] = [order.indexOf(stripId), order.indexOf(last)].sort((a, b) => a - b);
    if (from < 0) return;
    set({ lastId: last, others: order.slice(from, to + 1).filter((id) => id !== stripId && id !== MASTER_ID) });
  },
  chooseProcessor: (processorId) => {
    const strip = findStrip(songOf(desk), get().stripId);
    const processor = strip?.chain.find(({ id }) => id === processorId);
    const bandId = processor?.kind === 'equalizer' ? (processor.bands[0]?.id ?? null) : null;
    set({ processorId, bandId });
  },
  chooseBand: (bandId, { isFocused = false } = {}) =>
    set({ bandId, focusAsked: get().focusAsked + Number(isFocused && bandId !== null) }),
}));

/** The chosen track, bus or master; the master when the chosen one is gone. */
export function useChosenStrip(): Strip {
  const stripId = useSelection((selection) => selection.stripId);
  return useSong((song) => findStrip(song, stripId) ?? song.master);
}

/** A track, bus or the master without its chain: what shows it need not be made anew while a band is dragged. */
export type StripFacts = Partial<Omit<Track, 'chain'>> &
  Pick<Track, 'id' | 'gainDb'> & {
    /** True where two sides come out of its chain. */
    hasSides: boolean;
  };

/** Who the tracks are, in their order: nothing of it changes while a band or a fader is moved. */
export function useTrackList(): Pick<Track, 'id' | 'name' | 'ink'>[] {
  const ids = useSong(useShallow((song) => song.tracks.map(({ id }) => id)));
  const names = useSong(useShallow((song) => song.tracks.map(({ name }) => name)));
  const inks = useSong(useShallow((song) => song.tracks.map(({ ink }) => ink)));
  return useMemo(() => ids.map((id, i) => ({ id, name: names[i], ink: inks[i] })), [ids, names, inks]);
}

const knownFacts = new WeakMap<Strip, StripFacts>();

function factsOf(strip: Strip): StripFacts {
  const known = knownFacts.get(strip);
  if (known) return known;
  const { chain: _, ...rest } = strip;
  const facts = { ...rest, hasSides: channelsOut(strip) === 2 };
  knownFacts.set(strip, facts);
  return facts;
}

/** The facts of a strip; those of the master when it is gone. */
export function useStripFacts(stripId: string): StripFacts {
  return useSongStore(useShallow(({ state }) => factsOf(findStrip(state.song, stripId) ?? state.song.master)));
}

export function chosenStrip(desk: Desk): Strip {
  const song = songOf(desk);
  return findStrip(song, useSelection.of(desk).stripId) ?? song.master;
}

/** Every strip that is chosen, the one on the bench first. */
export function chosenStrips(desk: Desk): Strip[] {
  const song = songOf(desk);
  const others = useSelection.of(desk).others.flatMap((id) => findStrip(song, id) ?? []);
  return [chosenStrip(desk), ...others];
}

/** The strips that a change of `stripId` means: all that are chosen, where it is one of them. */
export function togetherWith(desk: Desk, stripId: string): string[] {
  const ids = chosenStrips(desk).map(({ id }) => id);
  return ids.includes(stripId) ? ids : [stripId];
}

/** The same for a component: what is set by it, when the choice has changed meanwhile, goes to those that were chosen. */
export function useTogether(stripId: string): string[] {
  return useSelection(
    useShallow(({ stripId: chosen, others }) => {
      const ids = [chosen, ...others];
      return ids.includes(stripId) ? ids : [stripId];
    }),
  );
}

/** The processor of a strip that the bench shows: the one that was chosen there, or the first equalizer, or whatever comes first. */
export const processorOnBench = ({ chain }: Pick<Strip, 'chain'>, processorId: string | null) =>
  chain.find(({ id }) => id === processorId) ?? firstEqualizer({ chain }) ?? chain[0];

/** The equalizer of a strip that is worked on: the one on the bench, where that is one. */
export function equalizerOnBench(strip: Pick<Strip, 'chain'>, processorId: string | null): Equalizer | undefined {
  const processor = processorOnBench(strip, processorId);
  return processor?.kind === 'equalizer' ? processor : undefined;
}

/** The equalizer of a strip that a band goes to: that on the bench, where it is the chosen strip's; its first else. */
export function equalizerFor(desk: Desk, strip: Strip): Equalizer | undefined {
  const { stripId, processorId } = useSelection.of(desk);
  return (strip.id === stripId ? equalizerOnBench(strip, processorId) : undefined) ?? firstEqualizer(strip);
}

export const chosenProcessor = (desk: Desk) => processorOnBench(chosenStrip(desk), useSelection.of(desk).processorId);

export function useChosenProcessor(): ChainProcessor | undefined {
  const strip = useChosenStrip();
  return processorOnBench(
    strip,
    useSelection((selection) => selection.processorId),
  );
}

/** The equalizer on the bench, and the chosen band of it. */
export function chosenBand(desk: Desk): { strip: Strip; equalizer: Equalizer | undefined; band: Band | undefined } {
  const strip = chosenStrip(desk);
  const equalizer = equalizerOnBench(strip, useSelection.of(desk).processorId);
  return { strip, equalizer, band: equalizer?.bands.find((band) => band.id === useSelection.of(desk).bandId) };
}

export function useChosenBand(): Band | undefined {
  const strip = useChosenStrip();
  const { bandId, processorId } = useSelection(useShallow(({ bandId, processorId }) => ({ bandId, processorId })));
  return equalizerOnBench(strip, processorId)?.bands.find((band) => band.id === bandId);
}

/** The chosen band as it was before the gesture or the preview that goes on. */
export function useSettledBand(): Band | undefined {
  const { stripId, processorId, bandId } = useSelection();
  return useSongStore(({ state }) => {
    const strip = findStrip(state.settled, stripId);
    return strip && equalizerOnBench(strip, processorId)?.bands.find((band) => band.id === bandId);
  });
}

/** The path that is worked on in an equalizer of a strip: where what goes into it is mono, there is only one. */
export const pathIn = (strip: Strip, equalizerId: string | undefined, path: BandChannel): BandChannel =>
  channelsInto(strip, equalizerId) === 1 ? 'stereo' : path;

export const stripName = (strip: { id: string; name?: string }) => strip.name ?? 'Master';
