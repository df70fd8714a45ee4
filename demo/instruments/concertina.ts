import { fault } from '../faults';
import { BEAT_SECONDS, type Note } from '../score';
import {
  additive,
  envelope,
  frames,
  highPass,
  lowPass,
  midiHz,
  mixInto,
  noise,
  RATE,
  sineOfTurns,
  toLevel,
} from '../signal';

/**
 * A concertina: two free reeds to a note, a few cents apart, in a small box; buttons click, bellows breathe. The left hand's
 * notes come from the left. A leaking reed whistles whenever the bellows move.
 */
export function concertina(length: number, notes: readonly Note[]): [Float64Array, Float64Array] {
  const left = new Float64Array(length);
  const right = new Float64Array(length);
  const pressure = new Float64Array(length);
  notes.forEach((note, i) => {
    const duration = note.beats * BEAT_SECONDS;
    const base = midiHz(note.midi);
    const level = envelope(duration, 0.05, 0.09);
    const start = frames(note.beat * BEAT_SECONDS);
    const place = Math.min(1, Math.max(0, (note.midi - 57) / 24));
    for (const cents of [-4, 5]) {
      const reed = additive(frames(duration), {
        hz: () => base * 2 ** (cents / 1200),
        level,
        partial: (hz, k, t) => {
          const odd = k % 2 === 1 ? 1 : 0.62;
          const box = 1 + 1.3 * Math.exp(-(((hz - 1050) / 420) ** 2)) + 0.9 * Math.exp(-(((hz - 2700) / 800) ** 2));
          return ((odd * box) / k ** (0.95 + 0.2 * (1 - level(t)))) * (1 / (1 + (hz / 6500) ** 4));
        },
      });
      mixInto(left, reed, start, 0.5 * note.strength * Math.cos((place * 0.7 + 0.15) * (Math.PI / 2)));
      mixInto(right, reed, start, 0.5 * note.strength * Math.sin((place * 0.7 + 0.15) * (Math.PI / 2)));
    }
    const click = highPass(noise(frames(0.008), 4000 + i), 1800).map((value, n) => value * Math.exp(-n / 90));
    mixInto(place < 0.5 ? left : right, click, start, 0.09);
    for (let n = 0; n < frames(duration) && start + n < length; n++) {
      pressure[start + n] = Math.max(pressure[start + n], level(n / RATE) * note.strength);
    }
  });
  const air = lowPass(highPass(noise(length, 55), 900), 6000).map((value, n) => value * pressure[n] * 0.02);
  mixInto(left, air, 0);
  mixInto(right, air, 0);
  const peak = [left, right].reduce(
    (most, side) => side.reduce((top, value) => Math.max(top, Math.abs(value)), most),
    1e-12,
  );
  const gain = 10 ** (-12 / 20) / peak;
  const sides = [left.map((value) => value * gain), right.map((value) => value * gain)] as [Float64Array, Float64Array];

  const leak = fault('concertina-whistle', 'frequencyHz', 'levelDb');
  const tone = pressure.map(
    (value, n) => value * sineOfTurns((leak.frequencyHz * n) / RATE + 0.4 * sineOfTurns((3.7 * n) / RATE)),
  );
  const sounding = tone.filter((_, n) => pressure[n] > 0.05);
  const whistleGain = toLevel(sounding, leak.levelDb)[100] / sounding[100];
  sides.forEach((side) => mixInto(side, tone, 0, whistleGain));
  return sides;
}
