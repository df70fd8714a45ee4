import { isOneSource, type Alignment, type FrequencyBand, type StepRange } from '@/core/measure';
import { feedingPart, fullestStretch, listenedRange, wholeRange } from '@/core/mix';
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
function commonStretch(desk: Desk, song: Song, tracks: readonly Track[]): StepRange {
  const listened = listenedRange(song);
  const loop = { startSeconds: 0, endSeconds: USUAL_SECONDS, enabled: false };
  const found = song.loop?.enabled
    ? null
    : fullestStretch({ ...song, tracks: [...tracks], loop, parts: [] }, useAnalyses.of(desk).levels);
  const { from, to } = found ? listenedRange({ ...song, loop: found }) : listened;
  const long = Math.min(wholeRange(song).to, Math.max(to, from + SHORTEST_STEPS));
  return { from, to: Math.min(long, from + LONGEST_STEPS) };
}

/**
 * Finds at which delay and polarity tracks add up best with the first of them, as they stand.
 * @param band null for all of it
 * @throws OrvidError as the server does
 */
export async function askAlignment(
  desk: Desk,
  trackIds: readonly string[],
  band: FrequencyBand | null,
  signal?: AbortSignal,
): Promise<Alignment[]> {
  const song = songOf(desk);
  const tracks = trackIds.flatMap((id) => song.tracks.find((track) => track.id === id) ?? []);
  const question = {
    song: feedingPart(song, trackIds),
    stripIds: trackIds,
    range: commonStretch(desk, song, tracks),
    band,
  };
  const { alignments } = await request<{ alignments: Alignment[] }>(
    'POST',
    '/api/measures/alignment',
    question,
    signal,
  );
  const judge = useOneSource.of(desk).judge;
  const [first, ...others] = tracks;
  alignments.forEach((alignment, i) => judge([first.audioId, others[i].audioId], isOneSource(alignment)));
  return alignments;
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
    const audioOf = (id: string) => song.tracks.find((track) => track.id === id)?.audioId ?? '';
    const next = (await alikePairs(desk)).find(([one, other]) => {
      const [a, b] = [audioOf(one), audioOf(other)];
      const key = pairKey(a, b);
      return a !== b && !useOneSource.of(desk).judged.has(key) && !failed.has(key);
    });
    if (!next || isOver) return;
    try {
      await askAlignment(desk, next, null);
    } catch {
      failed.add(pairKey(audioOf(next[0]), audioOf(next[1])));
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
