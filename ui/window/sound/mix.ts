import { proxy, wrap, type Remote } from 'comlink';
import { placeOf, placePowers } from '@/core/elsewhere';
import { openWorker } from '@/audio/open-worker';
import { SPECTRUM_CENTERS_HZ, type FrequencyBand, type LevelRows } from '@/core/measure';
import {
  claimingGroups,
  listenedRange,
  mixTracksOver,
  usualRange,
  type MixFigures,
  type RoomPlan,
  type RoomOptions,
} from '@/core/mix';
import { panGains } from '@/core/engine';
import { tracksWithin, type Song, type Track } from '@/core/song';
import type {
  EdgeFigures,
  EdgeRequest,
  EndsRequest,
  MixWorker,
  RoomFigures,
  RoomRequest,
  RoomSource,
} from '@/workers/mix';
import { deskStore, type Desk } from '../desk/desk';
import { tell } from '../notices/notices';
import { documentOf, settledSong, songOf } from '../song/live-song';
import { useSelection } from '../song/selection';
import { useFolds } from '../view/folds';
import { useSongStore } from '../song/song-store';
import { useAnalyses } from './analyses';
import { audioState } from './audio-state';
import { useListening } from './listening';
import { kinNow, useOneSource } from './one-source';
import { useStripMeasures } from './strip-measures';

/** Who is in whose way: measured in a worker from what is stored of the recordings, after every change of what is heard. */
interface Mix {
  figures: MixFigures;
  /** Where there is space for the chosen track. */
  space: readonly FrequencyBand[];
  /** Counts the measurements. */
  revision: number;
}

export const useMix = deskStore<Mix>(() => () => ({
  figures: { clearances: {}, overlaps: [] },
  space: [],
  revision: 0,
}));

const pause = (milliseconds: number) => new Promise((done) => setTimeout(done, milliseconds));
const isSame = (some: readonly FrequencyBand[], others: readonly FrequencyBand[]) =>
  some.length === others.length &&
  some.every(({ lowHz, highHz }, i) => lowHz === others[i].lowHz && highHz === others[i].highHz);

/** How a track's position shares out its power between the ears. */
function earsOf({ pan, channels }: Track): [number, number] {
  const { leftGain, rightGain } = panGains(pan, channels);
  const left = leftGain ** 2 / (leftGain ** 2 + rightGain ** 2);
  return [left, 1 - left];
}

/** The tracks as they are measured: where the mix is heard elsewhere, as they reach the ears there. */
function claiming(desk: Desk, song: Song) {
  const { elsewhere } = useListening.of(desk);
  const place = elsewhere && placePowers(placeOf(elsewhere), SPECTRUM_CENTERS_HZ, song.rateHz);
  const there = (gains: Float64Array) => (place ? gains.map((gain, band) => gain * place[band]) : gains);
  return mixTracksOver(song, listenedRange(song), { measures: useStripMeasures.of(desk).measures }).map((track, i) => ({
    ...track,
    gains: there(track.gains),
    spans: track.spans.map((span) => ({ ...span, gains: there(span.gains) })),
    claims: song.tracks[i].claims,
    kin: kinNow(desk, song, song.tracks[i]).map(({ id }) => id),
    usual: usualRange(song.tracks[i].part || song.tracks[i].name),
    ears: earsOf(song.tracks[i]),
  }));
}

/** Says what could not be measured. */
export const tellMixFailed = (desk: Desk, what: string, error: Error) =>
  tell(
    desk,
    `${what} could not be measured (${error.message}). The song is as it was; reload the page to try again.`,
    'error',
  );

class Measuring {
  private remote: Remote<MixWorker> | null = null;
  private readonly given = new Map<string, readonly LevelRows[]>();
  private isMeasuring = false;
  private isAskedAgain = false;

  constructor(private readonly desk: Desk) {}

  open(): void {
    const worker = openWorker('/audio/mix.js', (message) => tell(this.desk, message, 'error'));
    this.remote = wrap<MixWorker>(worker);
    const { desk, ask } = this;
    const endings = [
      useSongStore.api(desk).subscribe((now, before) => {
        const [song, old] = [now.state.document, before.state.document];
        const isOther = (['tracks', 'buses', 'master', 'loop', 'passages'] as const).some(
          (field) => song[field] !== old[field],
        );
        if (isOther) ask();
      }),
      useAnalyses.api(desk).subscribe((now, before) => now.levels !== before.levels && ask()),
      useOneSource.api(desk).subscribe((now, before) => now.pairs !== before.pairs && ask()),
      useFolds.api(desk).subscribe(ask),
      useListening.api(desk).subscribe((now, before) => now.elsewhere !== before.elsewhere && ask()),
      useStripMeasures.api(desk).subscribe((now, before) => now.measures !== before.measures && ask()),
      useSelection.api(desk).subscribe((now, before) => now.stripId !== before.stripId && ask()),
    ];
    ask();
    desk.onEnd(() => {
      endings.forEach((end) => end());
      worker.terminate();
      this.remote = null;
    });
  }

  private readonly ask = () =>
    void this.measure().catch((error: Error) => tellMixFailed(this.desk, 'Clearances and overlaps', error));

  /** The worker, for a question: it has all levels that are here. Null while there is none. */
  get asked(): Remote<MixWorker> | null {
    this.giveLevels();
    return this.remote;
  }

  /** Levels that have come in since are handed on. */
  private giveLevels(): void {
    const wanted = { ...useAnalyses.of(this.desk).levels, ...useStripMeasures.of(this.desk).levels };
    for (const id of this.given.keys()) {
      if (id in wanted) continue;
      this.given.delete(id);
      void this.remote?.forgetLevels(id);
    }
    for (const [audioId, rows] of Object.entries(wanted)) {
      if (this.given.get(audioId) === rows) continue;
      this.given.set(audioId, rows);
      void this.remote?.setLevels(audioId, rows);
    }
  }

  /** One at a time: what changes meanwhile is measured next, at its latest state. */
  private async measure(): Promise<void> {
    if (this.isMeasuring) {
      this.isAskedAgain = true;
      return;
    }
    this.isMeasuring = true;
    try {
      do {
        this.isAskedAgain = false;
        if (!this.remote) return;
        this.giveLevels();
        const song = documentOf(this.desk);
        const began = performance.now();
        const figures = await this.remote.update(
          claiming(this.desk, song),
          listenedRange(song),
          claimingGroups(song, useFolds.of(this.desk).folded),
        );
        const space = (await this.remote?.space(useSelection.of(this.desk).stripId)) ?? [];
        useMix.api(this.desk).setState(({ space: before, revision }) => ({
          figures,
          // What is the same stays the same object: nothing is drawn again for it.
          space: isSame(space, before) ? before : space,
          revision: revision + 1,
        }));
        // While it plays the sound and the pictures come first: measuring takes half of a core at most.
        if (this.isAskedAgain && audioState(this.desk)?.isPlaying) await pause(performance.now() - began);
      } while (this.isAskedAgain);
    } finally {
      this.isMeasuring = false;
    }
  }
}

const makeMeasuring = (desk: Desk) => new Measuring(desk);
const measuring = (desk: Desk) => desk.part(makeMeasuring);

/** Opens the measuring of the song on a desk, and follows it until the desk ends. */
export const followMix = (desk: Desk) => measuring(desk).open();

/** What a pass filter on a track takes, against its corner. Null where the recording is not measured yet. */
export const measureEdge = async (desk: Desk, wanted: EdgeRequest): Promise<EdgeFigures | null> =>
  (await measuring(desk).asked?.edge(wanted)) ?? null;

/** The ends that a track would get. */
export const measureEnds = async (desk: Desk, wanted: EndsRequest) =>
  (await measuring(desk).asked?.ends(wanted)) ?? null;

/** Moves that make room in an overlap. */
export async function measureRoom(
  desk: Desk,
  wanted: Pick<RoomRequest, 'overlap' | 'targetDb' | 'withBoost' | 'ownerId' | 'strength'>,
): Promise<RoomFigures | null> {
  // The moves that are previewed are no part of what they are worked out from.
  const song = settledSong(desk);
  const { quieterId, louderId } = wanted.overlap;
  const all = claiming(desk, song);
  const partyOf = (id: string): RoomSource => ({
    id,
    claims: [...song.tracks, ...song.buses].find((strip) => strip.id === id)?.claims ?? [],
    sources: all.filter((track) => track.id === id || tracksWithin(song, id).some((within) => within.id === track.id)),
  });
  const { asked } = measuring(desk);
  const parties = [partyOf(quieterId), partyOf(louderId)] as const;
  if (!asked || parties.some(({ sources }) => sources.length === 0)) return null;
  return asked.room({ ...wanted, parties, range: listenedRange(song), rateHz: song.rateHz });
}

/** Moves that make room for all claims of a song, over what is listened to. */
export async function measureWholeRoom(
  desk: Desk,
  song: Song,
  options: Omit<RoomOptions, 'rateHz'>,
  onProgress: (share: number) => void,
): Promise<RoomPlan | null> {
  const tracks = claiming(desk, song);
  const request = { ...options, tracks, range: listenedRange(song), rateHz: song.rateHz };
  return (await measuring(desk).asked?.wholeRoom(request, proxy(onProgress))) ?? null;
}

/** A claim for a track or a group; null where it does not play in the loop. */
export async function proposedClaim(desk: Desk, stripId: string, part: string): Promise<FrequencyBand | null> {
  return (await measuring(desk).asked?.claim(stripId, part)) ?? null;
}

/** Pairs of tracks in each other's way that rise and fall together: what may be one source. */
export async function alikePairs(desk: Desk): Promise<[string, string][]> {
  return (await measuring(desk).asked?.alikePairs()) ?? [];
}

/** The stretch in which most plays at once. */
export async function proposedStretch(desk: Desk) {
  return (await measuring(desk).asked?.stretch(songOf(desk))) ?? null;
}
