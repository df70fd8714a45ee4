import type { SoundFigures, StereoBand } from '@/core/measure';
import { deskStore } from '../desk/desk';
import { tell } from '../notices/notices';
import { request, requestTold } from '../server/request';
import { useSongStore } from '../song/song-store';

/** A part of the mix as the engine renders it, measured on the server. */
export interface MeasuredPart extends SoundFigures {
  headroomFreedDb: number;
  /** By third-octaves; null where it was not asked for. */
  stereo: StereoBand[] | null;
  revision: number;
}

/** The stretch of a song that is listened to, seconds; empty for all of it. */
interface Stretch {
  from?: number;
  to?: number;
}

interface MeasuredParts {
  /** By strip: the latest measurement, of a song and a stretch that may have changed since. */
  parts: Readonly<Record<string, { figures: MeasuredPart; stretch: Stretch }>>;
  measuring: string | null;
  /** Measures a strip over the loop, or over the song where nothing is looped. */
  measure: (stripId: string) => Promise<void>;
}

/** Asks for the figures of a strip over a stretch. @param byRange true to have both sides measured by third-octaves too @throws OrvidError as the server does */
export function requestPart(
  songId: string,
  stripId: string,
  stretch: Stretch,
  signal: AbortSignal,
  byRange = false,
): Promise<MeasuredPart> {
  const query = new URLSearchParams({ strip: stripId, ...(byRange && { byRange: 'true' }) });
  for (const [edge, seconds] of Object.entries(stretch)) query.set(edge, String(seconds));
  return request<MeasuredPart>('GET', `/api/songs/${songId}/measure?${query.toString()}`, undefined, signal);
}

/**
 * Asks for the figures of strips over the whole song at once; those are left out that must be measured by themselves.
 * @param hear is told how far it is, from 0 to 1
 * @throws OrvidError as the server does
 */
export const requestParts = (
  songId: string,
  strips: readonly string[],
  hear: (progress: number) => void,
  signal: AbortSignal,
): Promise<Record<string, MeasuredPart>> => requestTold(`/api/songs/${songId}/measure`, { strips }, hear, signal);

export const useMeasuredParts = deskStore<MeasuredParts>((desk) => (set, get) => {
  let latest: AbortController | null = null;
  desk.onEnd(() => latest?.abort());
  return {
    parts: {},
    measuring: null,
    measure: async (stripId) => {
      latest?.abort();
      const own = (latest = new AbortController());
      set({ measuring: stripId });
      const stretch = stretchOf(useSongStore.of(desk).state.song.loop);
      try {
        const figures = await requestPart(desk.songId, stripId, stretch, own.signal, true);
        if (!own.signal.aborted) set({ parts: { ...get().parts, [stripId]: { figures, stretch } } });
      } catch (error) {
        if (!own.signal.aborted) tell(desk, `It could not be measured. ${(error as Error).message}`, 'error');
      } finally {
        if (latest === own) set({ measuring: null });
      }
    },
  };
});

const stretchOf = (loop: { enabled: boolean; startSeconds: number; endSeconds: number } | null): Stretch =>
  loop?.enabled ? { from: loop.startSeconds, to: loop.endSeconds } : {};

/** What was measured of a strip, and whether it is of the song as it is saved now and of what is listened to now. */
export function useMeasuredPart(stripId: string): { figures: MeasuredPart; isCurrent: boolean } | null {
  const measured = useMeasuredParts((state) => state.parts[stripId]);
  const revision = useSongStore(({ state }) => state.revision);
  const loop = useSongStore(({ state }) => state.song.loop);
  if (!measured) return null;
  const { figures, stretch } = measured;
  const now = stretchOf(loop);
  const isCurrent = figures.revision === revision && stretch.from === now.from && stretch.to === now.to;
  return { figures, isCurrent };
}
