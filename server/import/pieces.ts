import path from 'node:path';
import { nameWithin } from '@/core/formats';
import { MOST_CHANNELS, pcmFacts, splitChannels } from './split-channels';

/** A file name as a track's name: without its folder and ending. */
export function trackNameOf(fileName: string): string {
  const base = path.basename(fileName.replace(/\\/g, '/')).replace(/\.[a-z0-9]{1,5}$/i, '');
  return (
    nameWithin(
      base
        .normalize('NFC')
        .replace(/[_\s]+/g, ' ')
        .trim(),
    ) || 'Track'
  );
}

/** A file that becomes one track, and what the track is called. */
export interface Piece {
  file: string;
  name: string;
}

/**
 * The files that an upload becomes: itself; or, of a WAV or AIFF file with many channels, one of each; or one with silence before it, where it begins
 * later than the song.
 * @param temporary what the names of new files begin with
 */
export async function piecesOf(
  upload: string,
  { fileName, atSeconds = 0 }: { fileName: string; atSeconds?: number },
  temporary: string,
  signal?: AbortSignal,
): Promise<Piece[]> {
  const whole = trackNameOf(fileName);
  const facts = await pcmFacts(upload);
  if (!facts) return [{ file: upload, name: whole }];
  const { info, notes } = facts;
  const isMany = info.channels > 2 && info.channels <= MOST_CHANNELS;
  const own = notes.channelNames.filter(Boolean);
  if (!isMany && atSeconds === 0) return [{ file: upload, name: (info.channels === 1 && own[0]) || whole }];
  const groups = isMany
    ? Array.from({ length: info.channels }, (_, channel) => [channel])
    : [Array.from({ length: info.channels }, (_, channel) => channel)];
  const pieces = groups.map((group, i) => ({
    file: `${temporary}-${i}`,
    name: isMany ? notes.channelNames[group[0]] || `${whole} ${i + 1}` : (info.channels === 1 && own[0]) || whole,
  }));
  const leadFrames = Math.round(atSeconds * info.rateHz);
  await splitChannels(
    upload,
    info,
    groups,
    pieces.map(({ file }) => file),
    leadFrames,
    signal,
  );
  return pieces;
}
