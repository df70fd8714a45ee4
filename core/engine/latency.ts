import type { ChainLatency, KeyWaits } from './chain-runner';
import { boundTracks, type CompiledSong, type CompiledStrip } from './compile';

/** How long the parts of a strip wait, frames. */
export interface StripWaits {
  /** Before its chain. */
  input: number;
  output: number;
  sends: number[];
  /** The keys that its processors listen to, by the processors' ids. */
  keys: KeyWaits;
}

/** When the sound of a frame is at the parts of a strip, frames after it is played. */
export interface StripPlaces {
  /** Behind each stage of its chain: there what it becomes takes the place of what it was. */
  stages: number[];
  /** Behind its chain. */
  leaves: number;
}

/** How late the parts of a song are, and what is delayed so that all of them meet: in frames. */
export interface LatencyPlan {
  tracks: StripWaits[];
  buses: StripWaits[];
  master: Pick<StripWaits, 'input' | 'keys'>;
  places: { tracks: StripPlaces[]; buses: StripPlaces[]; master: StripPlaces };
  /** How late the whole is. */
  total: number;
}

/**
 * Works out the delays that bring every sum of a song together: a bus takes what feeds it when the latest has arrived, and what is early
 * waits. A strip that listens to another waits until that one's sound is there, where it is the later; the key waits else. The own wait of a
 * track that nobody listens to comes before its chain as far as it can, so that its settings are heard at once.
 * @param latencyOf frames by which a strip's chain, or the master's, is late
 */
export function planLatency(
  song: CompiledSong,
  latencyOf: (strip: CompiledStrip | 'master') => ChainLatency,
): LatencyPlan {
  const arrivals = song.buses.map(() => 0);
  let atMaster = 0;
  const arrivalAt = (bus: number) => (bus < 0 ? atMaster : arrivals[bus]);
  const feed = (bus: number, late: number) => {
    if (bus < 0) atMaster = Math.max(atMaster, late);
    else arrivals[bus] = Math.max(arrivals[bus], late);
  };
  /** When what leaves the chain of a strip is there. */
  const leaves = new Map<string, number>();
  /** How long a strip waits for what it listens to, and what it listens to for it. */
  const meet = ({ whole, listeners, stages }: ChainLatency, arrival: number) => {
    const lateOf = (stripId: string) => leaves.get(stripId) ?? 0;
    const input = listeners.reduce(
      (most, { stripId, before }) => Math.max(most, lateOf(stripId) - arrival - before),
      0,
    );
    const keys = Object.fromEntries(
      listeners.map(({ id, stripId, before }) => [id, arrival + input + before - lateOf(stripId)]),
    );
    const places = { stages: stages.map((before) => arrival + input + before), leaves: arrival + input + whole };
    return { input, keys, late: places.leaves, places };
  };
  const runs = (strip: CompiledStrip, arrival: number) => {
    const met = meet(latencyOf(strip), arrival);
    leaves.set(strip.id, met.late);
    feed(strip.output, met.late);
    strip.sends.forEach((send) => feed(send.bus, met.late));
    return met;
  };
  const bound = new Set(boundTracks(song));
  const met = new Map<CompiledStrip, ReturnType<typeof runs>>();
  song.tracks.forEach((track, i) => bound.has(i) || met.set(track, runs(track, 0)));
  for (const { kind, index } of song.steps) {
    const strip = kind === 'track' ? song.tracks[index] : song.buses[index];
    met.set(strip, runs(strip, kind === 'track' ? 0 : arrivals[index]));
  }
  const waits = (strip: CompiledStrip): StripWaits => {
    const { input, keys, late } = met.get(strip)!;
    return {
      input,
      keys,
      output: arrivalAt(strip.output) - late,
      sends: strip.sends.map((send) => arrivalAt(send.bus) - late),
    };
  };
  const master = meet(latencyOf('master'), atMaster);
  /** What of a track's wait comes before its chain. */
  const early = song.tracks.map((track, i) => {
    const { output, sends } = waits(track);
    return bound.has(i) ? 0 : Math.min(output, ...sends);
  });
  const placesOf = (strip: CompiledStrip, later = 0): StripPlaces => {
    const { stages, leaves } = met.get(strip)!.places;
    return { stages: stages.map((late) => late + later), leaves: leaves + later };
  };
  return {
    tracks: song.tracks.map((track, i) => {
      const { output, sends, ...rest } = waits(track);
      return {
        ...rest,
        input: rest.input + early[i],
        output: output - early[i],
        sends: sends.map((wait) => wait - early[i]),
      };
    }),
    buses: song.buses.map(waits),
    master: { input: master.input, keys: master.keys },
    places: {
      tracks: song.tracks.map((track, i) => placesOf(track, early[i])),
      buses: song.buses.map((bus) => placesOf(bus)),
      master: master.places,
    },
    total: master.late,
  };
}
