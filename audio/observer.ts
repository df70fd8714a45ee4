import { PAGE_FRAMES, PagedSource, type MixRange } from '@/core/engine';
import type { Track } from '@/core/song';
import { fetchPages, type PageRoom } from './fetch-pages';

/** What a render runs ahead of its beginning, at most: see `renderBlocks`. */
const BEFORE_SECONDS = 4;
/** Pages that are asked for in one request. */
const TOGETHER = 4;

/** The recordings that are looked at, as far as they are needed: pages are fetched once and kept until others are looked at, or another stretch. */
export class ObservedRecordings {
  private readonly sources = new Map<string, PagedSource>();

  /** Fetches what a stretch of some tracks needs, and lets go of everything else. @throws Error as `fetchPages` does */
  async bring(tracks: readonly Track[], { startFrame, endFrame }: MixRange, rateHz: number): Promise<void> {
    const wanted = new Set(tracks.map(({ audioId }) => audioId));
    for (const audioId of this.sources.keys()) if (!wanted.has(audioId)) this.sources.delete(audioId);
    const first = Math.floor(Math.max(0, startFrame - BEFORE_SECONDS * rateHz) / PAGE_FRAMES);
    const missing: PageRoom[] = [];
    const places = new Map<PageRoom, { source: PagedSource; page: number; samples: Float32Array<ArrayBuffer> }>();
    for (const track of tracks) {
      const source = this.sources.get(track.audioId) ?? new PagedSource(track.channels, track.lengthFrames);
      this.sources.set(track.audioId, source);
      const last = Math.min(source.pageCount - 1, Math.floor((endFrame - 1) / PAGE_FRAMES));
      for (let page = 0; page < source.pageCount; page++) if (page < first || page > last) source.dropPage(page);
      for (let page = first; page <= last; page++) {
        if (source.hasPage(page) || missing.some((room) => room.audioId === track.audioId && room.page === page))
          continue;
        const frames = Math.min(PAGE_FRAMES, track.lengthFrames - page * PAGE_FRAMES);
        const samples = new Float32Array(frames * track.channels);
        const sides = Array.from({ length: track.channels }, (_, c) => samples.subarray(c * frames, (c + 1) * frames));
        const room = { audioId: track.audioId, page, sides };
        missing.push(room);
        places.set(room, { source, page, samples });
      }
    }
    for (let at = 0; at < missing.length; at += TOGETHER) {
      const rooms = missing.slice(at, at + TOGETHER);
      await fetchPages(rooms);
      for (const room of rooms) {
        const { source, page, samples } = places.get(room)!;
        source.setPage(page, samples);
      }
    }
  }

  readonly of = ({ audioId }: { audioId: string }): PagedSource | undefined => this.sources.get(audioId);
}
