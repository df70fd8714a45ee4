import { isOneSource, type Alignment, type FrequencyBand, type StepRange } from '@/core/measure';
import { feedingPart, fullestStretch, listenedRange, wholeRange, type BandLevels } from '@/core/mix';
import { pairKey, type Song, type Track } from '@/core/song';
import type { Desk } from '../desk/desk';
import { onServerBack } from '../outbox/link';
import { request } from '../server/request';
import { songOf } from '../song/live-song';
import { useAnalyses } from './analyses';
import { audioState } from './audio-state';
import { alikePairs, useMix } from './mix';
import { useOneSource } from './one-source';

/** Where nothing is looped, so long a stretch in which they play is looked at; of a loop no more than the longer time. Seconds. */
const USUAL_SECONDS = 20;
const LONGEST_STEPS = 120 * 20;
/** A shorter loop is looked at beyond its end: what is alike by chance would not be told from what is. */
const SHORTEST_STEPS = 8 * 20;

/** The stretch over which tracks are held against each other. */
export function commonStretch(song: Song, tracks: readonly Track[], levels: BandLevels): StepRange {
  const listened = listenedRange(song);
  const loop = { startSeconds: 0, endSeconds: USUAL_SECONDS, enabled: false };
  const found = song.loop?.enabled ? null : fullestStretch({ ...song, tracks: [...tracks], loop, parts: [] }, levels);
  const { from, to } = found ? listenedRange({ ...song, loop: found }) : listened;
  const long = Math.min(wholeRange(song).to, Math.max(to, from + SHORTEST_STEPS));
  return { from, to: Math.min(long, from + LONGEST_STEPS) };
}

/**
 * Finds at which delay and polarity tracks add up best with the first of them, as they stand.
 * @param band null for all of it
 * @throws OrvidError as the server does
 */
export async function alignmentsOf(
  song: Song,
  trackIds: readonly string[],
  levels: BandLevels,
  band: FrequencyBand | null = null,
  signal?: AbortSignal,
): Promise<Alignment[]> {
  const tracks = trackIds.flatMap((id) => song.tracks.find((track) => track.id === id) ?? []);
  const range = commonStretch(song, tracks, levels);
  const question = { song: feedingPart(song, trackIds), stripIds: trackIds, range, band };
  const path = '/api/measures/alignment';
  return (await request<{ alignments: Alignment[] }>('POST', path, question, signal)).alignments;
}

/** The same for the song on a desk, which takes note of what is one source. */
export async function askAlignment(
  desk: Desk,
  trackIds: readonly string[],
  band: FrequencyBand | null,
  signal?: AbortSignal,
): Promise<Alignment[]> {
  const song = songOf(desk);
  const alignments = await alignmentsOf(song, trackIds, useAnalyses.of(desk).levels, band, signal);
  const { judge } = useOneSource.of(desk);
  const [first, ...others] = trackIds.map((id) => audioIdOf(song, id));
  alignments.forEach((alignment, i) => judge([first, others[i]], isOneSource(alignment)));
  return alignments;
}

const audioIdOf = (song: Song, trackId: string) => song.tracks.find(({ id }) => id === trackId)?.audioId ?? '';

/** The first pair of tracks with two recordings that nobody has looked at yet, and what its recordings are called by. */
export function nextPair(
  song: Song,
  alike: readonly (readonly [string, string])[],
  isKnown: (key: string) => boolean,
): { trackIds: readonly [string, string]; key: string } | null {
  for (const trackIds of alike) {
    const [first, second] = [audioIdOf(song, trackIds[0]), audioIdOf(song, trackIds[1])];
    const key = pairKey(first, second);
    if (first !== second && !isKnown(key)) return { trackIds, key };
  }
  return null;
}

/** Looks at pairs when nothing has been measured for so long. */
const REST_MS = 2500;

/** Looks at tracks that rise and fall together, whether they are one source in two microphones: in the background, while nothing plays. */
export function followPairs(desk: Desk): void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  let isOver = false;
  /** What could not be looked at, until the server is back. */
  const failed = new Set<string>();
  const later = () => {
    clearTimeout(timer);
    if (!isOver) timer = setTimeout(() => void look(), REST_MS);
  };
  const look = async () => {
    if (audioState(desk)?.isPlaying) return later();
    const song = songOf(desk);
    const isKnown = (key: string) => useOneSource.of(desk).judged.has(key) || failed.has(key);
    const next = nextPair(song, await alikePairs(desk), isKnown);
    if (!next || isOver) return;
    try {
      await askAlignment(desk, next.trackIds, null);
    } catch {
      failed.add(next.key);
    }
    later();
  };
  onServerBack(desk, () => {
    failed.clear();
    later();
  });
  const end = useMix.api(desk).subscribe((now, before) => now.revision !== before.revision && later());
  desk.onEnd(() => {
    isOver = true;
    clearTimeout(timer);
    end();
  });
}
