import { chainSections, compileSong } from '@/core/engine';
import { magnitudesDb } from '@/core/filters';
import { FLOOR_DB, SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ, type MixedSpectrum } from '@/core/measure';
import { MASTER_ID, type Chain, type Song, type Strip, type Track } from '@/core/song';
import type { Analyses } from './analyses';

/**
 * Long-term spectra of what the song holds: the stored spectrum of a recording, and after its chain the same plus the response of
 * the coefficients that run. Nothing is measured again while a band is dragged.
 */
const responses = new WeakMap<Chain, { rateHz: number; db: Float64Array }>();

/** Response of a chain at the centres of the 120 bands, dB. */
export function chainResponseDb(chain: Chain, rateHz: number): Float64Array {
  const known = responses.get(chain);
  if (known?.rateHz === rateHz) return known.db;
  const db = magnitudesDb(chainSections(chain, rateHz), SPECTRUM_CENTERS_HZ, rateHz);
  responses.set(chain, { rateHz, db });
  return db;
}

const NOTHING = new Float64Array(SPECTRUM_BANDS).fill(FLOOR_DB);

/** The spectrum of a track at its fader: `beforeDb` without its chain, `afterDb` with it. */
export function trackSpectrum(track: Track, rateHz: number, analyses: Analyses): MixedSpectrum {
  const stored = analyses[track.audioId]?.spectrumDb;
  if (!stored) return { beforeDb: NOTHING, afterDb: NOTHING };
  const response = chainResponseDb(track.chain, rateHz);
  const beforeDb = Float64Array.from(stored, (db) => db + track.gainDb);
  return { beforeDb, afterDb: beforeDb.map((db, i) => Math.max(FLOOR_DB, db + response[i])) };
}

/** The spectra of the tracks that are heard, each with what its buses and the master do to it. */
export function heardSpectra(song: Song, analyses: Analyses): MixedSpectrum[] {
  const compiled = compileSong(song);
  const busResponse = (outputId: string): { chainDb: Float64Array; gainDb: number; audible: boolean } => {
    const bus = song.buses.find((one) => one.id === outputId);
    if (!bus)
      return { chainDb: chainResponseDb(song.master.chain, song.rateHz), gainDb: song.master.gainDb, audible: true };
    const rest = busResponse(bus.outputId);
    const own = chainResponseDb(bus.chain, song.rateHz);
    return {
      chainDb: own.map((db, i) => db + rest.chainDb[i]),
      gainDb: bus.gainDb + rest.gainDb,
      audible: rest.audible && !bus.muted,
    };
  };
  return song.tracks.flatMap((track, i) => {
    const onward = busResponse(track.outputId);
    if (!compiled.tracks[i].audible || !onward.audible) return [];
    const { beforeDb, afterDb } = trackSpectrum(track, song.rateHz, analyses);
    return [
      {
        beforeDb: Float64Array.from(beforeDb, (db) => db + onward.gainDb),
        afterDb: Float64Array.from(afterDb, (db, band) => db + onward.gainDb + onward.chainDb[band]),
      },
    ];
  });
}

/** The spectrum of a track, or of a sum: powers added, since the tracks of a song are not correlated. */
export function stripSpectrum(song: Song, strip: Strip, analyses: Analyses): MixedSpectrum {
  if ('audioId' in strip) return trackSpectrum(strip, song.rateHz, analyses);
  const feeding =
    strip.id === MASTER_ID ? song : { ...song, tracks: song.tracks.filter((track) => track.outputId === strip.id) };
  const spectra = heardSpectra(feeding, analyses);
  const sum = (side: keyof MixedSpectrum) =>
    Float64Array.from({ length: SPECTRUM_BANDS }, (_, band) =>
      Math.max(FLOOR_DB, 10 * Math.log10(spectra.reduce((power, one) => power + 10 ** (one[side][band] / 10), 1e-30))),
    );
  return { beforeDb: sum('beforeDb'), afterDb: sum('afterDb') };
}
