import { wrap, type Remote } from 'comlink';
import type { SharedState } from '@/audio/shared-state';
import type { TapRings } from '@/audio/session';
import type { Strip } from '@/core/song';
import type { Ballistics, LiveSpectra } from '@/workers/live-spectra';
import { currentSong, useSelection } from '../song';
import { useCompany } from './company';

/** Live spectra of the tracks: measured in a worker from what the audio thread writes, read by what is drawn. */
let worker: Worker | null = null;
let remote: Remote<LiveSpectra> | null = null;
let state: SharedState | null = null;

/** The live spectra by name: `<track>/after` of every track, `<track>/before` of the chosen one and of its company. */
let latest: Record<string, Float32Array> = {};
/** The highest levels since they were begun, of the chosen track and of its company. */
let held: Record<string, Float32Array> = {};
let revision = 0;
let isMeasuring = false;
let measuredAt = 0;
const MEASURED_EVERY_MS = 30;
/** Measuring rests for three times as long as it took, so that many spectra never take more than a quarter of a core. */
const REST = 3;
let took = 0;

export function openLive(sharedState: SharedState): () => void {
  worker = new Worker('/audio/live-spectra.js');
  remote = wrap<LiveSpectra>(worker);
  state = sharedState;
  return () => {
    worker?.terminate();
    worker = remote = state = null;
    latest = held = {};
  };
}

export function setLiveRings(rateHz: number, rings: readonly TapRings[]): void {
  const byName = rings.flatMap(({ trackId, before, after }) => [
    [`${trackId}/before`, before],
    [`${trackId}/after`, after],
  ]);
  void remote?.setRings(rateHz, Object.fromEntries(byName));
}

/** Counts up with every new set of live levels, and once when they end. */
export const liveRevision = (): number => revision;

/** Asks for live spectra; what is drawn reads them with {@link liveAtFader}. At most one request at a time, and 30 a second. */
export async function refreshLiveSpectra(milliseconds: number): Promise<void> {
  const pause = Math.max(MEASURED_EVERY_MS, REST * took);
  if (!remote || !state || isMeasuring || milliseconds - measuredAt < pause) return;
  measuredAt = milliseconds;
  if (!state.isPlaying) {
    if (Object.keys(latest).length > 0) {
      latest = {};
      revision++;
    }
    return;
  }
  isMeasuring = true;
  try {
    const { stripIds, stage, speed, isHolding } = useCompany.getState();
    const chosen = useSelection.getState().stripId;
    const names = new Set([...currentSong().tracks.map((track) => `${track.id}/after`), `${chosen}/before`]);
    const watched = [chosen, ...stripIds].map((id) => `${id}/${stage}`);
    watched.forEach((name) => names.add(name));
    const ballistics: Ballistics = { speed, held: isHolding ? watched : [] };
    const began = performance.now();
    const measured = await remote.measure([...names], state.tapPosition, ballistics);
    took = performance.now() - began;
    ({ levels: latest, held } = measured);
    revision++;
  } finally {
    isMeasuring = false;
  }
}

const atFader = (strip: Strip, levels: Float32Array | undefined) => levels?.map((db) => db + strip.gainDb);

/** The live levels of a track at its fader, dB per band; nothing while it does not play. */
export const liveAtFader = (strip: Strip, side: 'before' | 'after') => atFader(strip, latest[`${strip.id}/${side}`]);

/** The highest live levels of a track at its fader since they are held. */
export const heldAtFader = (strip: Strip, side: 'before' | 'after') => atFader(strip, held[`${strip.id}/${side}`]);

/** Begins to hold anew. */
export function forgetHeld(): void {
  held = {};
  revision++;
  void remote?.forgetHeld();
}
