import { PAGE_FRAMES, PagedSource, PIECE_FRAMES, PIECES_OF_PAGE, type MixRange } from '@/core/engine';
import type { Track } from '@/core/song';
import { fetchPieces, type PieceRoom } from './fetch-pieces';

/** What a render runs ahead of its beginning, at most: see `renderBlocks`. */
const BEFORE_SECONDS = 4;
/** Pages that are asked for in one request. */
const TOGETHER = 4;

/** The recordings that are looked at, as far as they are needed: pages are fetched once and kept until others are looked at, or another stretch. */
export class ObservedRecordings {
  private readonly sources = new Map<string, PagedSource>();

  /** Fetches what a stretch of some tracks needs, and lets go of everything else. @throws Error as `fetchPieces` does */
  async bring(tracks: readonly Track[], { startFrame, endFrame }: MixRange, rateHz: number): Promise<void> {
    const wanted = new Set(tracks.map(({ audioId }) => audioId));
    for (const audioId of this.sources.keys()) if (!wanted.has(audioId)) this.sources.delete(audioId);
    const from = Math.floor(Math.max(0, startFrame - BEFORE_SECONDS * rateHz) / PAGE_FRAMES);
    const missing: PieceRoom[] = [];
    const places = new Map<PieceRoom, { source: PagedSource; page: number; samples: Float32Array<ArrayBuffer> }>();
    for (const track of tracks) {
      const source = this.sources.get(track.audioId) ?? new PagedSource(track.channels, track.lengthFrames);
      this.sources.set(track.audioId, source);
      const last = Math.min(source.pageCount - 1, Math.floor((endFrame - 1) / PAGE_FRAMES));
      for (let page = 0; page < source.pageCount; page++) if (page < from || page > last) source.dropPage(page);
      for (let page = from; page <= last; page++) {
        const first = page * PIECES_OF_PAGE;
        if (source.hasPage(page) || missing.some((room) => room.audioId === track.audioId && room.first === first))
          continue;
        const frames = Math.min(PAGE_FRAMES, track.lengthFrames - page * PAGE_FRAMES);
        const samples = new Float32Array(frames * track.channels);
        const room = { audioId: track.audioId, first, sides: piecesOf(samples, track.channels) };
        missing.push(room);
        places.set(room, { source, page, samples });
      }
    }
    for (let at = 0; at < missing.length; at += TOGETHER) {
      const rooms = missing.slice(at, at + TOGETHER);
      await fetchPieces(rooms);
      for (const room of rooms) {
        const { source, page, samples } = places.get(room)!;
        source.setPage(page, samples);
      }
    }
  }

  readonly of = ({ audioId }: { audioId: string }): PagedSource | undefined => this.sources.get(audioId);
}

/** The pieces of a page of planar samples: for each an array for each channel. */
function piecesOf(samples: Float32Array<ArrayBuffer>, channels: number): Float32Array[][] {
  const frames = samples.length / channels;
  return Array.from({ length: Math.ceil(frames / PIECE_FRAMES) }, (_, piece) =>
    Array.from({ length: channels }, (__, c) =>
      samples.subarray(c * frames + piece * PIECE_FRAMES, c * frames + Math.min(frames, (piece + 1) * PIECE_FRAMES)),
    ),
  );
}
