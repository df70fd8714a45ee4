import { isOneSource, type Alignment, type FrequencyBand, type StepRange } from '@/core/measure';
import { feedingStrips, fullestStretch, listenedRange } from '@/core/mix';
import { pairKey, type Song, type Track } from '@/core/song';
import type { Desk } from '../desk/desk';
import { request } from '../server/request';
import { songOf } from '../song/live-song';
import { useAnalyses } from './analyses';
import { audioState } from './audio-state';
import { alikePairs, useMix } from './mix';
import { useOneSource } from './one-source';

/** Where nothing is looped, so long a stretch in which they play is looked at; of a loop no more than the longer time. Seconds. */
const USUAL_SECONDS = 20;
const LONGEST_STEPS = 120 * 20;

/** The stretch over which tracks are held against each other. */
function commonStretch(desk: Desk, song: Song, tracks: readonly Track[]): StepRange {
  const listened = listenedRange(song);
  const loop = { startSeconds: 0, endSeconds: USUAL_SECONDS, enabled: false };
  const found = song.loop?.enabled
    ? null
    : fullestStretch({ ...song, tracks: [...tracks], loop, parts: [] }, useAnalyses.of(desk).levels);
  const { from, to } = found ? listenedRange({ ...song, loop: found }) : listened;
  return { from, to: Math.min(to, from + LONGEST_STEPS) };
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
  const wanted = new Set(trackIds.flatMap((id) => [...feedingStrips(song, id)]));
  const asked = { ...song, drafts: [], leftOverlaps: [], tracks: song.tracks.filter(({ id }) => wanted.has(id)) };
  const question = { song: asked, stripIds: trackIds, range: commonStretch(desk, song, tracks), band };
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
      return a !== b && !useOneSource.of(desk).judged.has(pairKey(a, b));
    });
    if (!next || isOver) return;
    try {
      await askAlignment(desk, next, null);
    } catch {
      // It is looked at again when the song is opened again.
      useOneSource.of(desk).judge([audioOf(next[0]), audioOf(next[1])], false);
    }
    later();
  };
  const end = useMix.api(desk).subscribe((now, before) => now.revision !== before.revision && later());
  desk.onEnd(() => {
    isOver = true;
    clearTimeout(timer);
    end();
  });
}
