import {
  fits,
  listenedRange,
  mixTracksOver,
  songStretches,
  songStretchName,
  wholeRange,
  type EdgeFilter,
  type PassingTrack,
  type ProposedEnd,
} from '@/core/mix';
import type { StepRange } from '@/core/measure';
import {
  withEqualizers,
  applyEdit,
  batch,
  findStrip,
  firstEqualizer,
  newBandSettings,
  newId,
  tracksWithin,
  type Bus,
  type Chain,
  type Edit,
  type Song,
  type Track,
} from '@/core/song';
import type { EdgeFigures } from '@/workers/mix';
import type { Desk } from '../../window/desk/desk';
import { endBand, type PassType } from './end-edits';
import { levelsSettled } from '../../window/sound/analyses';
import { measureEdge, measureEnds } from '../../window/sound/mix';
import { makeBand, setBand } from '../../window/song/band-edits';
import { songOf } from '../../window/song/live-song';
import { useStripMeasures } from '../../window/sound/strip-measures';

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
  const withoutBand = (chain: Chain) =>
    withEqualizers(chain, (equalizer) => ({
      ...equalizer,
      bands: equalizer.bands.filter(({ id }) => id !== band?.id),
    }));
  const opened = <T extends Ended>(other: T): T =>
    other.id === strip.id ? { ...other, chain: withoutBand(other.chain), muted: false, soloed: true } : other;
  return { ...song, tracks: song.tracks.map(opened), buses: song.buses.map(opened) };
}

/** A track, or the tracks of a group, as they are heard over a range without an end, passages counted. */
export function openSources(desk: Desk, open: Song, strip: Ended, range: StepRange): PassingTrack[] {
  const ids = 'audioId' in strip ? [strip.id] : tracksWithin(open, strip.id).map(({ id }) => id);
  const listened = listenedRange(open);
  const isListened = range.from === listened.from && range.to === listened.to;
  const measures = new Map(
    [...useStripMeasures.of(desk).measures]
      // What was measured behind the end that is taken out has it in it.
      .filter(([id, measure]) => id !== strip.id || fits(measure, findStrip(open, id)!))
      // Levels over time were measured over what is listened to, and nowhere else.
      .map(([id, measure]) => [id, isListened ? measure : { ...measure, levelsId: null }] as const),
  );
  return mixTracksOver(open, range, { measures, only: new Set(ids) });
}

/** What an end of a track or group takes, against its corner. */
export function edgeOf(
  desk: Desk,
  strip: Ended,
  type: PassType,
  thresholdLu: number,
  where: 'loop' | 'song',
): Promise<EdgeFigures | null> {
  const song = songOf(desk);
  const range = where === 'loop' ? listenedRange(song) : wholeRange(song);
  const sources = openSources(desk, withoutEnd(song, strip, type), strip, range);
  return measureEdge(desk, {
    stripId: strip.id,
    sources,
    filter: endFilter(strip, type),
    thresholdLu,
    range,
    rateHz: song.rateHz,
  });
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

/** One end of a track as it would be cleaned. */
export interface EndProposal {
  trackId: string;
  name: string;
  type: PassType;
  fromHz: number | null;
  toHz: number;
  why: string;
}

const WHY: Record<ProposedEnd['why'], string> = {
  unmissed: 'just short of what is missed of it',
  'keeps-lows': 'keeps its low end, but for what is under it',
  'noise-above': 'nothing but steady noise above',
  'wanted-above': 'another track is to be heard above',
};

/** The song without either end of a track. */
const withoutEnds = (song: Song, track: Track): Song =>
  withoutEnd(withoutEnd(song, track, 'high-pass'), track, 'low-pass');

/**
 * Ends for every track, over the whole song: a high-pass just short of where the track is missed where it is most exposed, a low-pass only
 * where there is noise above it or another track wants that range; kick and bass keep their lows, but for what lies under their corner.
 * @param isBold true to go as far as the mix covers what is taken
 */
export async function proposeEnds(
  desk: Desk,
  isBold: boolean,
  onProgress: (share: number) => void,
): Promise<EndProposal[]> {
  const song = songOf(desk);
  const { tracks } = song;
  const range = wholeRange(song);
  // A track that is not measured yet would be left out unsaid.
  await levelsSettled(
    desk,
    tracks.map(({ audioId }) => audioId),
  );
  const proposals: EndProposal[] = [];
  for (const [i, track] of tracks.entries()) {
    const found = await measureEnds(desk, {
      stripId: track.id,
      named: track,
      sources: openSources(desk, withoutEnds(song, track), track, range),
      filters: { 'high-pass': endFilter(track, 'high-pass'), 'low-pass': endFilter(track, 'low-pass') },
      wanted: tracks.flatMap((other) => (other.id === track.id ? [] : other.claims)),
      isBold,
      range,
      parts: songStretches(song),
      rateHz: song.rateHz,
    });
    for (const type of ['high-pass', 'low-pass'] as const) {
      const end = found?.[type];
      if (!end) continue;
      const fromHz = endBand(track, type)?.frequencyHz ?? null;
      const toHz = Number(safeHz(end.frequencyHz, type).toPrecision(3));
      if (fromHz !== null && Math.abs(Math.log2(toHz / fromHz)) <= 0.1) continue;
      const limit = end.part === null ? null : songStretchName(song, end.part);
      const why = limit && end.why === 'unmissed' ? `${WHY[end.why]} in ${limit}` : WHY[end.why];
      proposals.push({ trackId: track.id, name: track.name, type, fromHz, toHz, why });
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
