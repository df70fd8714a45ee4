import { isLowPart, LOW_PART_CORNER_HZ, mixTracks, type EdgeFilter } from '@/core/mix';
import {
  withEqualizers,
  applyEdit,
  batch,
  firstEqualizer,
  newBandSettings,
  newId,
  tracksWithin,
  type Bus,
  type Edit,
  type Song,
  type Track,
} from '@/core/song';
import type { EdgeFigures } from '@/workers/mix';
import type { Desk } from '../../window/desk/desk';
import { endBand, type PassType } from './end-edits';
import { levelsSettled } from '../../window/sound/analyses';
import { measureEdge } from '../../window/sound/mix';
import { makeBand, setBand } from '../../window/song/band-edits';
import { songOf } from '../../window/song/live-song';

/** What may have ends: a track or a group. */
export type Ended = Track | Bus;

/** A new end has this slope: 18 dB per octave. */
const NEW_ORDER = 3;

/** The filter of an end: the one that is there, or a new one. */
export const endFilter = (track: Ended, type: PassType): EdgeFilter => {
  const band = endBand(track, type);
  return { ...(band ?? { ...newBandSettings(type, 100), order: NEW_ORDER }), type };
};

/** The song without an end of a track or group: what the end would be taken from. It is looked at though it is muted, or others are soloed. */
function withoutEnd(song: Song, strip: Ended, type: PassType): Song {
  const band = endBand(strip, type);
  const chain = withEqualizers(strip.chain, (equalizer) => ({
    ...equalizer,
    bands: equalizer.bands.filter(({ id }) => id !== band?.id),
  }));
  const opened = <T extends Ended>(other: T): T =>
    other.id === strip.id ? { ...other, chain, muted: false, soloed: true } : other;
  return { ...song, tracks: song.tracks.map(opened), buses: song.buses.map(opened) };
}

/** What an end of a track or group takes, against its corner. */
export function edgeOf(
  desk: Desk,
  strip: Ended,
  type: PassType,
  thresholdLu: number,
  where: 'loop' | 'song',
): Promise<EdgeFigures | null> {
  const open = withoutEnd(songOf(desk), strip, type);
  const ids = 'audioId' in strip ? [strip.id] : tracksWithin(open, strip.id).map(({ id }) => id);
  const sources = mixTracks(open).filter(({ id }) => ids.includes(id));
  return measureEdge(desk, { stripId: strip.id, sources, filter: endFilter(strip, type), thresholdLu }, where);
}

/** Rounded to two figures, to the safe side. */
export function safeHz(hz: number, type: PassType): number {
  const step = 10 ** (Math.floor(Math.log10(hz)) - 1);
  return (type === 'high-pass' ? Math.floor(hz / step) : Math.ceil(hz / step)) * step;
}

/** Sets an end of a track: moves its post, or drives in a new one. */
export function setEnd(song: Song, track: Ended, type: PassType, frequencyHz: number, note: string): Edit | null {
  const band = endBand(track, type);
  if (band) return setBand(song, track.id, band.id, { frequencyHz });
  if (!firstEqualizer(track)) return null;
  const shape = { ...newBandSettings(type, frequencyHz), order: NEW_ORDER, note };
  return makeBand(song, track.id, shape, newId(10))?.edit ?? null;
}

/** Common practice: the highest corner that is proposed for all tracks at once, and the lowest low-pass. */
const HIGHEST_PROPOSED_HZ = 400;
const LOWEST_PROPOSED_HZ = 3000;
/** The mix may cover what a track is made of: no more than an octave past what is missed of it alone. */
const PAST_ALONE = 2;
/** A corner this near to an end of what is heard is not worth a filter. */
const LEAST_HIGH_PASS_HZ = 24;
const MOST_LOW_PASS_HZ = 19000;

/** One end of a track as it would be cleaned. */
export interface EndProposal {
  trackId: string;
  name: string;
  type: PassType;
  fromHz: number | null;
  toHz: number;
  why: string;
}

/**
 * An end for every track, just short of where it is missed in the mix, over the whole song; kick and bass parts keep their lows, but for
 * what lies under their own corner.
 */
export async function proposeEnds(
  desk: Desk,
  thresholdLu: number,
  onProgress: (share: number) => void,
): Promise<EndProposal[]> {
  const { tracks } = songOf(desk);
  // A track that is not measured yet would be left out unsaid.
  await levelsSettled(
    desk,
    tracks.map(({ audioId }) => audioId),
  );
  const proposals: EndProposal[] = [];
  for (const [i, track] of tracks.entries()) {
    for (const type of ['high-pass', 'low-pass'] as const) {
      const figures = await edgeOf(desk, track, type, thresholdLu, 'song');
      const fromHz = endBand(track, type)?.frequencyHz ?? null;
      const propose = (toHz: number, why: string) => {
        if (fromHz === null || Math.abs(Math.log2(toHz / fromHz)) > 0.1)
          proposals.push({ trackId: track.id, name: track.name, type, fromHz, toHz, why });
      };
      if (!figures) continue;
      if (type === 'high-pass' && isLowPart(track)) {
        propose(LOW_PART_CORNER_HZ, 'keeps its low end, but for what is under it');
        continue;
      }
      if (figures.inMixHz === null || figures.aloneHz === null) continue;
      const isHigh = type === 'high-pass';
      const { aloneHz, inMixHz } = figures;
      const farthest = isHigh ? Math.min(inMixHz, aloneHz * PAST_ALONE) : Math.max(inMixHz, aloneHz / PAST_ALONE);
      const hz = safeHz(farthest, type);
      const toHz = isHigh ? Math.min(HIGHEST_PROPOSED_HZ, hz) : Math.max(LOWEST_PROPOSED_HZ, hz);
      if (isHigh ? toHz >= LEAST_HIGH_PASS_HZ : toHz <= MOST_LOW_PASS_HZ)
        propose(Number(toHz.toPrecision(3)), `just short of what is missed in the mix`);
    }
    onProgress((i + 1) / tracks.length);
  }
  return proposals;
}

/** The edit that sets the chosen ends, all of them one step of undo. */
export function cleanEnds(desk: Desk, proposals: readonly EndProposal[]): Edit | null {
  let song = songOf(desk);
  const edits: Edit[] = [];
  for (const { trackId, type, toHz, why } of proposals) {
    const track = song.tracks.find(({ id }) => id === trackId);
    const edit = track && setEnd(song, track, type, toHz, why);
    if (!edit) continue;
    edits.push(edit);
    // The second end of a track is set beside its first, and takes the next letter.
    song = applyEdit(song, edit);
  }
  return batch(edits);
}
