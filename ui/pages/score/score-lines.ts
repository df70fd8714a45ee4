import type { Clearance } from '@/core/mix';
import { equalizersOf, groupsOf, isEnd, type Song, type Strip } from '@/core/song';
import type { MeasuredPart } from '../../window/sound/measured-parts';

/** One line of the score: a track, or the mix. */
export interface ScoreLine {
  id: string;
  name: string;
  ink: number | null;
  claims: Song['tracks'][number]['claims'];
  before: Clearance | null;
  after: Clearance | null;
  /** True until its clearances are measured with what reacts to levels. */
  isEstimated: boolean;
  highPassHz: number | null;
  lowPassHz: number | null;
  /** Bands that are on and no pass filters. */
  moves: number;
  measured: MeasuredPart | null;
}

/** What is known of a song from its document alone. */
export function scoreLines(song: Song): ScoreLine[] {
  const lineOf = (strip: Strip): ScoreLine => {
    const bands = equalizersOf(strip.chain)
      .filter(({ enabled }) => enabled)
      .flatMap((equalizer) => equalizer.bands);
    const endHz = (type: 'high-pass' | 'low-pass') =>
      bands.find((band) => band.type === type && isEnd(band))?.frequencyHz ?? null;
    return {
      id: strip.id,
      name: 'name' in strip ? strip.name : 'Mix',
      ink: 'ink' in strip ? strip.ink : null,
      claims: 'claims' in strip ? strip.claims : [],
      before: null,
      after: null,
      isEstimated: true,
      highPassHz: endHz('high-pass'),
      lowPassHz: endHz('low-pass'),
      moves: bands.filter((band) => band.enabled && !isEnd(band)).length,
      measured: null,
    };
  };
  return [...song.tracks.map(lineOf), ...groupsOf(song).map(({ bus }) => lineOf(bus)), lineOf(song.master)];
}
