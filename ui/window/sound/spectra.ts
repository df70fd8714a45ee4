import { compileSong } from '@/core/engine';
import { FLOOR_DB, SPECTRUM_BANDS, type MixedSpectrum } from '@/core/measure';
import { chainResponseDb } from '@/core/mix';
import { MASTER_ID, type Song, type Strip, type Track } from '@/core/song';
import type { Analyses } from './analyses';

/**
 * Long-term spectra of what the song holds: the stored spectrum of a recording, and after its chain the same plus the response of
 * the coefficients that run. Nothing is measured again while a band is dragged.
 */
const NOTHING = new Float64Array(SPECTRUM_BANDS).fill(FLOOR_DB);
const SILENT = new Float64Array(SPECTRUM_BANDS);

/** A spectrum in decibels and as powers. */
interface Spectrum extends MixedSpectrum {
  beforePower: Float64Array;
  afterPower: Float64Array;
}
const ofNothing: Spectrum = { beforeDb: NOTHING, afterDb: NOTHING, beforePower: SILENT, afterPower: SILENT };

const toPower = (levelsDb: Float64Array) => levelsDb.map((db) => 10 ** (db / 10));
const toLevelsDb = (power: Float64Array) => power.map((value) => Math.max(FLOOR_DB, 10 * Math.log10(value + 1e-30)));

const known = new WeakMap<Track, { analysis: Analyses[string]; rateHz: number; spectrum: Spectrum }>();

/** The spectrum of a track at its fader: before without its chain, after with it. Computed once for each state of the track. */
export function trackSpectrum(track: Track, rateHz: number, analyses: Analyses): Spectrum {
  const analysis = analyses[track.audioId];
  if (!analysis) return ofNothing;
  const kept = known.get(track);
  if (kept?.analysis === analysis && kept.rateHz === rateHz) return kept.spectrum;
  const response = chainResponseDb(track.chain, track.channels, rateHz);
  const beforeDb = Float64Array.from(analysis.spectrumDb, (db) => db + track.gainDb);
  const afterDb = beforeDb.map((db, i) => Math.max(FLOOR_DB, db + response[i]));
  const spectrum = { beforeDb, afterDb, beforePower: toPower(beforeDb), afterPower: toPower(afterDb) };
  known.set(track, { analysis, rateHz, spectrum });
  return spectrum;
}

/** What lies between a track's fader and the ears: power gains of its buses and the master, without and with their chains. */
interface Onward {
  before: number;
  after: Float64Array;
  audible: boolean;
}

function onwardOf(song: Song, outputId: string): Onward {
  const bus = song.buses.find((bus) => bus.id === outputId);
  const strip = bus ?? song.master;
  const gain = 10 ** (strip.gainDb / 10);
  const own = toPower(chainResponseDb(strip.chain, 2, song.rateHz));
  if (!bus) return { before: gain, after: own.map((power) => power * gain), audible: true };
  const rest = onwardOf(song, bus.outputId);
  return {
    before: gain * rest.before,
    after: own.map((power, i) => power * gain * rest.after[i]),
    audible: rest.audible && !bus.muted,
  };
}

/** The sum of the tracks that are heard and chosen: powers added, since the tracks of a song are not correlated. */
function sumSpectrum(song: Song, analyses: Analyses, isChosen: (track: Track) => boolean): MixedSpectrum {
  const before = new Float64Array(SPECTRUM_BANDS);
  const after = new Float64Array(SPECTRUM_BANDS);
  const onward = new Map<string, Onward>();
  const { tracks } = compileSong(song);
  song.tracks.forEach((track, i) => {
    if (!tracks[i].audible || !isChosen(track)) return;
    const way = onward.get(track.outputId) ?? onwardOf(song, track.outputId);
    onward.set(track.outputId, way);
    if (!way.audible) return;
    const { beforePower, afterPower } = trackSpectrum(track, song.rateHz, analyses);
    for (let band = 0; band < SPECTRUM_BANDS; band++) {
      before[band] += beforePower[band] * way.before;
      after[band] += afterPower[band] * way.after[band];
    }
  });
  return { beforeDb: toLevelsDb(before), afterDb: toLevelsDb(after) };
}

const mixes = new WeakMap<Song, { analyses: Analyses; spectrum: MixedSpectrum }>();

/** The spectrum of the whole mix as it is heard. */
export function mixSpectrum(song: Song, analyses: Analyses): MixedSpectrum {
  const kept = mixes.get(song);
  if (kept?.analyses === analyses) return kept.spectrum;
  const spectrum = sumSpectrum(song, analyses, () => true);
  mixes.set(song, { analyses, spectrum });
  return spectrum;
}

/** The spectrum of a track at its fader, or of what a bus or the master lets through. */
export function stripSpectrum(song: Song, strip: Strip, analyses: Analyses): MixedSpectrum {
  if ('audioId' in strip) return trackSpectrum(strip, song.rateHz, analyses);
  return strip.id === MASTER_ID
    ? mixSpectrum(song, analyses)
    : sumSpectrum(song, analyses, (track) => track.outputId === strip.id);
}
