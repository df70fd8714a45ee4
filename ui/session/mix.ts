import { wrap, type Remote } from 'comlink';
import { create } from 'zustand';
import type { FrequencyBand } from '@/core/measure';
import { listenedRange, mixTracks, wholeRange, type MixFigures } from '@/core/mix';
import type { Song } from '@/core/song';
import type { EdgeFigures, EdgeWish, MixWorker, RoomFigures, RoomWish } from '@/workers/mix';
import { currentSong, useSelection, useSongStore } from '../song';
import { useAnalyses } from './analyses';

/** Who is in whose way: measured in a worker from what is stored of the recordings, after every change of what is heard. */
interface Mix {
  figures: MixFigures;
  /** Where there is space for the chosen track. */
  space: readonly FrequencyBand[];
  /** Counts the measurements. */
  revision: number;
}

const NOTHING: Mix = { figures: { clearances: {}, overlaps: [] }, space: [], revision: 0 };
export const useMix = create<Mix>(() => NOTHING);

const NO_SPACE: readonly FrequencyBand[] = [];

/** Where there is space for a track: known of the chosen one. */
export const useSpace = (stripId: string): readonly FrequencyBand[] => {
  const isChosen = useSelection((selection) => selection.stripId === stripId);
  return useMix((mix) => (isChosen ? mix.space : NO_SPACE));
};

const pause = (milliseconds: number) => new Promise((done) => setTimeout(done, milliseconds));

let worker: Worker | null = null;
let remote: Remote<MixWorker> | null = null;
const given = new Set<string>();

/** The tracks as they are measured. */
const claiming = (song: Song) => mixTracks(song).map((one, i) => ({ ...one, claims: song.tracks[i].claims }));

/** Recordings that have come in since are handed on. */
function giveLevels(): void {
  for (const [audioId, bytes] of Object.entries(useAnalyses.getState().levels)) {
    if (given.has(audioId)) continue;
    given.add(audioId);
    void remote?.setLevels(audioId, bytes);
  }
}

/** Says what could not be measured. */
export const tellMixFailed = (what: string, error: Error) =>
  useSongStore
    .getState()
    .tell(
      `${what} could not be measured (${error.message}). The song is as it was; reload the page to try again.`,
      'error',
    );

/** Opens the measuring of the song in the store, and follows it. @returns what ends it */
export function followMix(isPlaying: () => boolean): () => void {
  worker = new Worker('/audio/mix.js');
  remote = wrap<MixWorker>(worker);
  given.clear();
  useMix.setState(NOTHING);
  let isMeasuring = false;
  let isAskedAgain = false;
  /** One at a time: what changes meanwhile is measured next, at its latest state. */
  const measure = async () => {
    if (isMeasuring) {
      isAskedAgain = true;
      return;
    }
    isMeasuring = true;
    const own = remote;
    try {
      do {
        isAskedAgain = false;
        giveLevels();
        const song = currentSong();
        if (!own || own !== remote) return;
        const began = performance.now();
        const figures = await own.update(claiming(song), listenedRange(song));
        const space = await own.space(useSelection.getState().stripId);
        if (own === remote)
          useMix.setState(({ space: before, revision }) => ({
            figures,
            // What is the same stays the same object: nothing is drawn again for it.
            space: JSON.stringify(space) === JSON.stringify(before) ? before : space,
            revision: revision + 1,
          }));
        // While it plays the sound and the pictures come first: measuring takes half of a core at most.
        if (isAskedAgain && isPlaying()) await pause(performance.now() - began);
      } while (isAskedAgain);
    } finally {
      isMeasuring = false;
    }
  };
  const ask = () => void measure().catch((error: Error) => tellMixFailed('Clearances and overlaps', error));
  ask();
  const endings = [
    useSongStore.subscribe((now, before) => {
      const [song, old] = [now.state.song, before.state.song];
      if (
        song.tracks !== old.tracks ||
        song.buses !== old.buses ||
        song.master !== old.master ||
        song.loop !== old.loop
      )
        ask();
    }),
    useAnalyses.subscribe((now, before) => now.levels !== before.levels && ask()),
    useSelection.subscribe((now, before) => now.stripId !== before.stripId && ask()),
  ];
  return () => {
    endings.forEach((end) => end());
    worker?.terminate();
    worker = remote = null;
  };
}

/** What a pass filter on a track takes, against its corner. Null where the recording is not measured yet. */
export async function measureEdge(
  wish: Omit<EdgeWish, 'range' | 'rateHz'>,
  where: 'loop' | 'song',
): Promise<EdgeFigures | null> {
  const song = currentSong();
  const range = where === 'loop' ? listenedRange(song) : wholeRange(song);
  return (await remote?.edge({ ...wish, range, rateHz: song.rateHz })) ?? null;
}

/** Moves that make room in an overlap. */
export async function measureRoom(
  wish: Pick<RoomWish, 'overlap' | 'targetDb' | 'withBoost' | 'ownerId' | 'strength'>,
): Promise<RoomFigures | null> {
  // The moves that are previewed are no part of what they are worked out from.
  const song = useSongStore.getState().state.settled;
  const { quieterId, louderId } = wish.overlap;
  const all = claiming(song);
  const [quieter, louder] = [quieterId, louderId].map((id) => all.find((one) => one.id === id));
  if (!remote || !quieter || !louder) return null;
  return remote.room({ ...wish, tracks: [quieter, louder], range: listenedRange(song), rateHz: song.rateHz });
}

/** A claim for a track; null where it does not play in the loop. */
export async function proposedClaim(trackId: string, part: string): Promise<FrequencyBand | null> {
  return (await remote?.claim(trackId, part)) ?? null;
}

/** The stretch in which most plays at once. */
export async function proposedStretch() {
  return (await remote?.stretch(currentSong())) ?? null;
}
