import { compileSong } from '@/core/engine';
import { FLOOR_DB, SPECTRUM_BANDS, type MixedSpectrum } from '@/core/measure';
import { NOTHING_MEASURED, sidesDb, stripChainDb, type StripMeasure, type StripMeasures } from '@/core/mix';
import type { Song, Strip, Track } from '@/core/song';
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

const known = new WeakMap<
  Track,
  { analysis: Analyses[string]; rateHz: number; measure: StripMeasure | undefined; spectrum: Spectrum }
>();

interface SpectrumBefore {
  beforeDb: Float64Array;
  beforePower: Float64Array;
}
const recorded = new WeakMap<Analyses[string], SpectrumBefore & { gainDb: number }>();

/** The spectrum of a recording at a fader: the same object while neither changes. */
function spectrumBefore(analysis: Analyses[string], gainDb: number): SpectrumBefore {
  const kept = recorded.get(analysis);
  if (kept?.gainDb === gainDb) return { beforeDb: kept.beforeDb, beforePower: kept.beforePower };
  const beforeDb = Float64Array.from(analysis.spectrumDb, (db) => db + gainDb);
  const made = { beforeDb, beforePower: toPower(beforeDb) };
  recorded.set(analysis, { ...made, gainDb });
  return made;
}

/** The spectrum of a track at its fader: before without its chain, after with it. Computed once for each state of the track. */
export function trackSpectrum(
  track: Track,
  rateHz: number,
  analyses: Analyses,
  measures: StripMeasures = NOTHING_MEASURED,
): Spectrum {
  const analysis = analyses[track.audioId];
  if (!analysis) return ofNothing;
  const kept = known.get(track);
  const measure = measures.get(track.id);
  if (kept?.analysis === analysis && kept.rateHz === rateHz && kept.measure === measure) return kept.spectrum;
  const response = stripChainDb(track, rateHz, measures);
  const before = spectrumBefore(analysis, track.gainDb);
  const sides = sidesDb(track);
  const afterDb = before.beforeDb.map((db, i) => Math.max(FLOOR_DB, db + response[i] + sides));
  const spectrum = { ...before, afterDb, afterPower: toPower(afterDb) };
  known.set(track, { analysis, rateHz, measure, spectrum });
  return spectrum;
}

/** Powers behind a fader, without and with the chains on the way. */
interface Powers {
  before: Float64Array;
  after: Float64Array;
}

const scaled = ({ before, after }: Powers, gain: number): Powers => ({
  before: before.map((power) => power * gain),
  after: after.map((power) => power * gain),
});

function addTo(sum: Powers, { before, after }: Powers, gain: number): void {
  for (let band = 0; band < SPECTRUM_BANDS; band++) {
    sum.before[band] += before[band] * gain;
    sum.after[band] += after[band] * gain;
  }
}

const fromDb = (db: number) => 10 ** (db / 10);

/**
 * What comes of all that is heard, behind the faders of a song's strips: powers added, and corrected by what was measured where tracks
 * have something in common.
 */
function powersOf(song: Song, analyses: Analyses, measures: StripMeasures): (strip: Strip) => Powers {
  const { tracks, buses } = compileSong(song);
  const heard = new Map([...tracks, ...buses].map((compiled) => [compiled.id, compiled]));
  const known = new Map<string, Powers>();
  const powers = (strip: Strip): Powers => {
    const kept = known.get(strip.id);
    if (kept) return kept;
    const made = 'audioId' in strip ? ofTrack(strip) : ofSum(strip);
    known.set(strip.id, made);
    return made;
  };
  const ofTrack = (track: Track): Powers => {
    const { beforePower, afterPower } = trackSpectrum(track, song.rateHz, analyses, measures);
    return { before: beforePower, after: afterPower };
  };
  const ofSum = (into: Strip): Powers => {
    const sum: Powers = { before: new Float64Array(SPECTRUM_BANDS), after: new Float64Array(SPECTRUM_BANDS) };
    for (const strip of [...song.tracks, ...song.buses]) {
      const { audible, sends } = heard.get(strip.id)!;
      if (strip.outputId === into.id && audible) addTo(sum, powers(strip), 1);
      strip.sends.forEach(({ busId, gainDb, tap }, i) => {
        if (busId !== into.id || !sends[i].audible) return;
        addTo(sum, powers(strip), fromDb(gainDb - (tap === 'before-fader' ? strip.gainDb : 0)));
      });
    }
    const added = measures.get(into.id)?.addedDb;
    const own = toPower(
      stripChainDb(into, song.rateHz, measures).map((db, band) => db + sidesDb(into) + (added?.[band] ?? 0)),
    );
    const before = added ? sum.before.map((power, band) => power * fromDb(added[band])) : sum.before;
    const behind = { before, after: sum.after.map((power, band) => power * own[band]) };
    return scaled(behind, fromDb(into.gainDb));
  };
  return powers;
}

const inDb = ({ before, after }: Powers): MixedSpectrum => ({
  beforeDb: toLevelsDb(before),
  afterDb: toLevelsDb(after),
});

const sums = new WeakMap<
  Song,
  {
    analyses: Analyses;
    measures: StripMeasures;
    powers: (strip: Strip) => Powers;
    spectra: Map<string, MixedSpectrum>;
  }
>();

/** The spectrum of a track at its fader, or of what comes together in a bus or the master, at theirs. */
export function stripSpectrum(
  song: Song,
  strip: Strip,
  analyses: Analyses,
  measures: StripMeasures = NOTHING_MEASURED,
): MixedSpectrum {
  if ('audioId' in strip) return trackSpectrum(strip, song.rateHz, analyses, measures);
  let kept = sums.get(song);
  if (kept?.analyses !== analyses || kept.measures !== measures) {
    kept = { analyses, measures, powers: powersOf(song, analyses, measures), spectra: new Map() };
    sums.set(song, kept);
  }
  const known = kept.spectra.get(strip.id);
  if (known) return known;
  const spectrum = inDb(kept.powers(strip));
  kept.spectra.set(strip.id, spectrum);
  return spectrum;
}

/** The spectrum of the whole mix as it is heard. */
export const mixSpectrum = (song: Song, analyses: Analyses): MixedSpectrum =>
  stripSpectrum(song, song.master, analyses);
