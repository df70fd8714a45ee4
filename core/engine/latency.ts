import type { CompiledSong, CompiledStrip } from './compile';

/** How long the output and the sends of a strip wait, frames. */
export interface StripWaits {
  output: number;
  sends: number[];
}

/** How late the parts of a song are, and what is delayed so that all of them meet: in frames. */
export interface LatencyPlan {
  /** For each track also how long its samples wait before its chain. */
  tracks: (StripWaits & { input: number })[];
  buses: StripWaits[];
  /** How late the whole is. */
  total: number;
}

/**
 * Works out the delays that bring every sum of a song together: a bus takes what feeds it when the latest has arrived, and what is early
 * waits. A track's own wait comes before its chain as far as it can, so that its settings are heard at once.
 * @param latencyOf frames by which a strip's chain, or the master's, is late
 */
export function planLatency(song: CompiledSong, latencyOf: (strip: CompiledStrip | 'master') => number): LatencyPlan {
  const arrivals = song.buses.map(() => 0);
  let atMaster = 0;
  const arrivalAt = (bus: number) => (bus < 0 ? atMaster : arrivals[bus]);
  const feed = (bus: number, late: number) => {
    if (bus < 0) atMaster = Math.max(atMaster, late);
    else arrivals[bus] = Math.max(arrivals[bus], late);
  };
  const feedAll = (strip: CompiledStrip, late: number) => {
    feed(strip.output, late);
    strip.sends.forEach((send) => feed(send.bus, late));
  };
  song.tracks.forEach((track) => feedAll(track, latencyOf(track)));
  song.buses.forEach((bus, i) => feedAll(bus, arrivals[i] + latencyOf(bus)));
  const waits = (strip: CompiledStrip, late: number): StripWaits => ({
    output: arrivalAt(strip.output) - late,
    sends: strip.sends.map((send) => arrivalAt(send.bus) - late),
  });
  return {
    tracks: song.tracks.map((track) => {
      const { output, sends } = waits(track, latencyOf(track));
      const input = Math.min(output, ...sends);
      return { input, output: output - input, sends: sends.map((wait) => wait - input) };
    }),
    buses: song.buses.map((bus, i) => waits(bus, arrivals[i] + latencyOf(bus))),
    total: atMaster + latencyOf('master'),
  };
}
