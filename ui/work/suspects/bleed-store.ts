import { useEffect } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { asRecorded, type FoundBleed } from '@/core/mix';
import { kinOf, type Song, type Track } from '@/core/song';
import { deskStore, useDesk, type Desk } from '../../window/desk/desk';
import { useServerReturns } from '../../window/outbox/use-server-returns';
import { request } from '../../window/server/request';
import { songOf } from '../../window/song/live-song';
import { useSong } from '../../window/song/song-store';
import { useAnalyses } from '../../window/sound/analyses';
import { commonStretch } from '../../window/sound/judge-pairs';
import { useOneSource } from '../../window/sound/one-source';

/** What of other tracks is heard in the recordings, as far as it has been looked for. */
interface BleedStore {
  /** By {@link bleedKey}; null where nothing of it is there. */
  found: Readonly<Record<string, FoundBleed | null>>;
  problem: string | null;
}

const useBleedStore = deskStore<BleedStore>(() => () => ({ found: {}, problem: null }));

const bleedKey = (audioId: string, sourceAudioId: string) => `${audioId} ${sourceAudioId}`;

/** The tracks that a track may hear: of another recording, and of another source as far as is known. @param pairs recordings of one source */
function sourcesFor(tracks: Song['tracks'], track: Track, pairs: ReadonlySet<string>): Track[] {
  const kin = new Set(kinOf({ tracks }, track, pairs).map(({ id }) => id));
  const others = tracks.filter(({ id, audioId }) => id !== track.id && audioId !== track.audioId && !kin.has(id));
  return others.filter(({ audioId }, i) => others.findIndex((other) => other.audioId === audioId) === i);
}

async function lookAtPair(desk: Desk, trackId: string, source: Track): Promise<void> {
  const song = songOf(desk);
  const track = song.tracks.find(({ id }) => id === trackId);
  if (!track) return;
  const key = bleedKey(track.audioId, source.audioId);
  if (key in useBleedStore.of(desk).found) return;
  const range = commonStretch(song, [track, source], useAnalyses.of(desk).levels);
  const question = { song: asRecorded(song, [trackId, source.id]), trackId, sourceId: source.id, range };
  const { bleed } = await request<{ bleed: FoundBleed | null }>('POST', '/api/measures/bleed', question);
  useBleedStore.api(desk).setState(({ found }) => ({ found: { ...found, [key]: bleed } }));
}

/** Looks for each of the others in a track's recording, one after the other, until the signal aborts: the pair that is looked at then is soon done. */
async function lookForBleed(desk: Desk, trackId: string, signal: AbortSignal): Promise<void> {
  useBleedStore.api(desk).setState({ problem: null });
  const song = songOf(desk);
  const track = song.tracks.find(({ id }) => id === trackId);
  try {
    for (const source of track ? sourcesFor(song.tracks, track, useOneSource.of(desk).pairs) : []) {
      if (signal.aborted) return;
      await lookAtPair(desk, trackId, source);
    }
  } catch (error) {
    if (!signal.aborted) useBleedStore.api(desk).setState({ problem: (error as Error).message });
  }
}

/** What of other tracks is heard in a track's recording: looked for on the server while somebody asks. */
export function useBleed(track: Track): {
  found: { source: Track; bleed: FoundBleed }[];
  /** How many tracks have not been looked for yet. */
  left: number;
  problem: string | null;
} {
  const desk = useDesk();
  const returns = useServerReturns();
  const { found, problem } = useBleedStore(useShallow(({ found, problem }) => ({ found, problem })));
  const recordings = useSong((song) => song.tracks.map(({ audioId }) => audioId).join());
  const pairs = useOneSource((store) => store.pairs);
  useEffect(() => {
    const ending = new AbortController();
    void lookForBleed(desk, track.id, ending.signal);
    return () => ending.abort();
    // A track is looked through anew where another recording is there, whatever else of it is changed.
  }, [desk, track.id, track.audioId, recordings, pairs, returns]);
  const tracks = useSong((song) => song.tracks);
  const sources = sourcesFor(tracks, track, pairs);
  const answers = sources.map((source) => ({ source, bleed: found[bleedKey(track.audioId, source.audioId)] }));
  return {
    found: answers
      .filter((answer): answer is { source: Track; bleed: FoundBleed } => Boolean(answer.bleed))
      .sort((a, b) => b.bleed.share - a.bleed.share),
    left: answers.filter(({ bleed }) => bleed === undefined).length,
    problem,
  };
}
