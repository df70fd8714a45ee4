import { fault } from '../faults';
import type { Note } from '../score';
import { BEAT_SECONDS } from '../score';
import { bandPass, frames, highPass, lowPass, mixInto, modes, noise, resonance, toLevel, toPeak } from '../signal';

const startOf = (note: Note) => frames(note.beat * BEAT_SECONDS);

/** A boot on a wooden box: a low thud that falls in pitch, the board's knock, a little grit. */
export function stomp(length: number, notes: readonly Note[]): Float64Array {
  const out = new Float64Array(length);
  notes.forEach((note, i) => {
    const body = modes(frames(0.6), [
      { hz: 62, bendHz: 38, gain: 1, decaySeconds: 0.13 },
      { hz: 97, bendHz: 20, gain: 0.5, decaySeconds: 0.08 },
      { hz: 213, gain: 0.16, decaySeconds: 0.04 },
      { hz: 388, gain: 0.09, decaySeconds: 0.025 },
    ]);
    const knock = lowPass(highPass(noise(frames(0.05), 100 + i), 700), 3800);
    mixInto(out, body, startOf(note), note.strength);
    mixInto(
      out,
      knock.map((value, n) => value * Math.exp(-n / 260)),
      startOf(note),
      0.22 * note.strength,
    );
  });
  return toPeak(out, -7);
}

/** Ideal circular membrane: ratios of its modes. P. Morse, K. Ingard, Theoretical Acoustics, 1968 (zeros of Bessel functions). */
const MEMBRANE = [1, 1.594, 2.136, 2.296, 2.653, 2.918, 3.156, 3.501];

/**
 * A frame drum of about 118 Hz by hand. The top microphone hears the slap, the underside the skin moving away from it
 * (so its polarity is opposite) a moment later, darker, with more of the frame's ring.
 */
export function frameDrum(length: number, notes: readonly Note[], side: 'top' | 'underside'): Float64Array {
  const ring =
    side === 'top'
      ? fault('drum-ring', 'frequencyHz', 'decaySeconds', 'levelDb')
      : fault('underside-ring', 'frequencyHz', 'decaySeconds', 'levelDb');
  const skin = new Float64Array(length);
  const ringing = new Float64Array(length);
  notes.forEach((note, i) => {
    const bright = note.strength;
    const tone = modes(
      frames(0.7),
      MEMBRANE.map((ratio, m) => ({
        hz: 118 * ratio,
        bendHz: 7 * ratio,
        gain: (m === 0 ? 1 : 0.55 * bright) / (1 + 0.55 * m),
        decaySeconds: 0.24 / (1 + 0.5 * m),
      })),
    );
    const slap = bandPass(noise(frames(0.07), 300 + i), 3100, 0.6);
    const rattle = highPass(noise(frames(0.12), 700 + i), 5200);
    mixInto(skin, tone, startOf(note), 0.5 * note.strength);
    if (side === 'top') {
      mixInto(
        skin,
        slap.map((value, n) => value * Math.exp(-n / 420)),
        startOf(note),
        1.5 * bright * bright,
      );
      mixInto(
        skin,
        rattle.map((value, n) => value * Math.exp(-n / 1100)),
        startOf(note),
        0.1 * bright,
      );
    }
    mixInto(
      ringing,
      modes(frames(1.6), [{ hz: ring.frequencyHz, gain: 1, decaySeconds: ring.decaySeconds }]),
      startOf(note),
      note.strength,
    );
  });
  const direct = side === 'top' ? toPeak(skin, -8) : toPeak(lowPass(skin, 2600), -11).map((value) => -value);
  mixInto(direct, toLevel(ringing, ring.levelDb), 0);
  if (side === 'top') return direct;
  const delayed = new Float64Array(length);
  mixInto(delayed, direct, frames(0.0009));
  return delayed;
}

/** Three people clapping, each a few milliseconds apart, and what the stomp sends into their microphone. */
export function claps(length: number, notes: readonly Note[], stompSignal: Float64Array): Float64Array {
  const out = new Float64Array(length);
  notes.forEach((note, i) => {
    [0, 0.009, 0.021].forEach((late, hand) => {
      const hands = noise(frames(0.13), 900 + 3 * i + hand);
      const shaped = bandPass(hands, 1150 + 420 * hand, 1.1).map(
        (value, n) => value * Math.exp(-n / (480 + 170 * hand)),
      );
      mixInto(out, shaped, startOf(note) + frames(late), note.strength * (1 - 0.2 * hand));
    });
  });
  const clean = toPeak(resonance(highPass(out, 400), 2300, 1.2, 5), -10);
  const bleed = fault('claps-bleed', 'gainDb');
  mixInto(clean, lowPass(stompSignal.slice(), 900), frames(0.004), 10 ** (bleed.gainDb / 20));
  return clean;
}
