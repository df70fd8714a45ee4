import { create } from 'zustand';
import type { SoundFigures } from '@/core/measure';
import { request, useSongStore } from '../song';

/** A part of the mix as the engine renders it, measured on the server. */
export interface MeasuredPart extends SoundFigures {
  headroomFreedDb: number;
  revision: number;
}

interface MeasuredParts {
  /** By strip: the latest measurement, of a song and a stretch that may have changed since. */
  parts: Readonly<Record<string, { figures: MeasuredPart; key: string }>>;
  measuring: string | null;
}

export const useMeasuredParts = create<MeasuredParts>(() => ({ parts: {}, measuring: null }));

let latest: AbortController | null = null;

/** The stretch of a song that is listened to, seconds; empty for all of it. */
function stretchNow(): { from?: number; to?: number } {
  const { loop } = useSongStore.getState().state.song;
  return loop?.enabled ? { from: loop.startSeconds, to: loop.endSeconds } : {};
}

/** What a measurement is of: the saved song and the stretch. */
export const measuredKey = () => JSON.stringify([useSongStore.getState().state.revision, stretchNow()]);

/** Asks for the figures of a strip over a stretch. @throws OrvidError as the server does */
export function requestPart(
  songId: string,
  stripId: string,
  stretch: { from?: number; to?: number },
  signal: AbortSignal,
): Promise<MeasuredPart> {
  const query = new URLSearchParams({ strip: stripId });
  for (const [edge, seconds] of Object.entries(stretch)) query.set(edge, String(seconds));
  return request<MeasuredPart>('GET', `/api/songs/${songId}/measure?${query.toString()}`, undefined, signal);
}

/** Measures a strip over the loop, or over the song where nothing is looped. */
export async function measurePart(stripId: string): Promise<void> {
  const { songId, tell } = useSongStore.getState();
  latest?.abort();
  const own = (latest = new AbortController());
  useMeasuredParts.setState({ measuring: stripId });
  const key = measuredKey();
  try {
    const figures = await requestPart(songId, stripId, stretchNow(), own.signal);
    if (!own.signal.aborted)
      useMeasuredParts.setState(({ parts }) => ({ parts: { ...parts, [stripId]: { figures, key } } }));
  } catch (error) {
    if (!own.signal.aborted) tell(`It could not be measured. ${(error as Error).message}`, 'error');
  } finally {
    if (latest === own) useMeasuredParts.setState({ measuring: null });
  }
}
