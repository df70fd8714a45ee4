import { wrap, type Remote } from 'comlink';
import type { SharedState } from '@/audio/shared-state';
import { openWorker } from '@/audio/open-worker';
import type { TapRings } from '@/audio/session';
import type { Strip } from '@/core/song';
import type { Ballistics, LiveSpectra } from '@/workers/live-spectra';
import type { Desk } from '../desk/desk';
import { tell } from '../notices/notices';
import { songOf } from '../song/live-song';
import { useSelection } from '../song/selection';
import { useFrozen } from './frozen';
import { frameStrain } from '../../kit/frames/use-frames';

/** What else of the live spectra is looked at than every track after its chain and the chosen one before it. */
export interface Watched {
  stripIds: readonly string[];
  /** Before their chains, or after. */
  stage: 'before' | 'after';
  /** How fast live spectra follow. */
  speed: Ballistics['speed'];
  isHolding: boolean;
}

const MEASURED_EVERY_MS = 30;
/** Measuring rests for three times as long as it took, so that many spectra never take more than a quarter of a core. */
const REST = 3;

/** Live spectra of the tracks: measured in a worker from what the audio thread writes, read by what is drawn. */
class Live {
  private remote: Remote<LiveSpectra> | null = null;
  private state: SharedState | null = null;
  /** By name: `<track>/after` of every track, `<track>/before` of the chosen one and of those that are watched. */
  levels: Record<string, Float32Array> = {};
  /** The highest levels since they were begun, of the chosen track and of those that are watched. */
  held: Record<string, Float32Array> = {};
  watched: Watched = { stripIds: [], stage: 'after', speed: 'fast', isHolding: false };
  /** Counts up with every new set of live levels, and once when they end. */
  revision = 0;
  private isMeasuring = false;
  private measuredAt = 0;
  private took = 0;

  constructor(private readonly desk: Desk) {}

  open(state: SharedState): void {
    const worker = openWorker('/audio/live-spectra.js', (message) => tell(this.desk, message, 'error'));
    this.remote = wrap<LiveSpectra>(worker);
    this.state = state;
    this.desk.onEnd(() => {
      worker.terminate();
      this.remote = this.state = null;
      this.levels = this.held = {};
    });
  }

  setRings(rateHz: number, rings: readonly TapRings[]): void {
    const byName = rings.flatMap(({ trackId, before, after }) => [
      [`${trackId}/before`, before],
      [`${trackId}/after`, after],
    ]);
    void this.remote?.setRings(rateHz, Object.fromEntries(byName));
  }

  async refresh(milliseconds: number): Promise<void> {
    const pause = Math.max(MEASURED_EVERY_MS * frameStrain(), REST * this.took);
    if (!this.remote || !this.state || this.isMeasuring || milliseconds - this.measuredAt < pause) return;
    this.measuredAt = milliseconds;
    if (!this.state.isPlaying) {
      if (Object.keys(this.levels).length === 0) return;
      this.levels = {};
      this.revision++;
      return;
    }
    this.isMeasuring = true;
    try {
      const { stripIds, stage, speed, isHolding } = this.watched;
      const chosen = useSelection.of(this.desk).stripId;
      const watched = [chosen, ...stripIds].map((id) => `${id}/${stage}`);
      // A track whose render is played has nothing before its chain.
      const { current } = useFrozen.of(this.desk);
      const isThere = (name: string) => !current.some((id) => name === `${id}/before`);
      const all = [...songOf(this.desk).tracks.map(({ id }) => `${id}/after`), `${chosen}/before`, ...watched];
      const names = all.filter(isThere);
      const began = performance.now();
      const ballistics: Ballistics = { speed, held: isHolding ? watched.filter(isThere) : [] };
      const measured = await this.remote.measure([...new Set(names)], this.state.tapPosition, ballistics);
      this.took = performance.now() - began;
      this.levels = measured.levels;
      this.held = measured.held;
      this.revision++;
    } finally {
      this.isMeasuring = false;
    }
  }

  forgetHeld(): void {
    this.held = {};
    this.revision++;
    void this.remote?.forgetHeld();
  }
}

const makeLive = (desk: Desk) => new Live(desk);
const liveOf = (desk: Desk) => desk.part(makeLive);

export const openLive = (desk: Desk, state: SharedState) => liveOf(desk).open(state);
export const setLiveRings = (desk: Desk, rateHz: number, rings: readonly TapRings[]) =>
  liveOf(desk).setRings(rateHz, rings);

/** Counts up with every new set of live levels, and once when they end. */
export const liveRevision = (desk: Desk): number => liveOf(desk).revision;

/** Says what is looked at from now on. */
export const watchLive = (desk: Desk, watched: Watched) => void (liveOf(desk).watched = watched);

/** Asks for live spectra; what is drawn reads them with {@link liveAtFader}. At most one request at a time, and 30 a second. */
export const refreshLiveSpectra = (desk: Desk, milliseconds: number) => liveOf(desk).refresh(milliseconds);

const atFader = (strip: Strip, levels: Float32Array | undefined) => levels?.map((db) => db + strip.gainDb);

/** The live levels of a track at its fader, dB per band; nothing while it does not play. */
export const liveAtFader = (desk: Desk, strip: Strip, side: 'before' | 'after') =>
  atFader(strip, liveOf(desk).levels[`${strip.id}/${side}`]);

/** The highest live levels of a track at its fader since they are held. */
export const heldAtFader = (desk: Desk, strip: Strip, side: 'before' | 'after') =>
  atFader(strip, liveOf(desk).held[`${strip.id}/${side}`]);

/** Begins to hold anew. */
export const forgetHeld = (desk: Desk) => liveOf(desk).forgetHeld();
