import { claps, frameDrum, stomp } from './instruments/percussion';
import { cello, doubleBass, dulcimer } from './instruments/strings';
import { concertina } from './instruments/concertina';
import { roomMicrophones } from './instruments/room';
import { harmonyVoice, leadVoice } from './instruments/voice';
import * as score from './score';
import { frames } from './signal';

/** A track of the demo song as it was "recorded". */
export interface Recording {
  /** The name that faults.json uses. */
  id: string;
  name: string;
  part: string;
  ink: number;
  /** A first rough balance. */
  gainDb: number;
  pan: number;
  /** One array per channel, 48 kHz. */
  samples: Float64Array[];
}

/** Synthesises all twelve tracks of Lantern Ferry. The same samples every time. */
export function recordLanternFerry(): Recording[] {
  const length = frames(score.SONG_SECONDS);
  const stompSignal = stomp(length, score.STOMP);
  const drumTop = frameDrum(length, score.DRUM, 'top');
  const bass = doubleBass(length, score.BASS);
  const celloSignal = cello(length, score.CELLO);
  const dulcimerSides = dulcimer(length, score.DULCIMER);
  const concertinaSides = concertina(length, score.CONCERTINA);
  const lead = leadVoice(length, score.LEAD);
  const high = harmonyVoice(length, score.HARMONY_HIGH, { seed: 11, size: 1.06, late: 0.021, cents: 4 });
  const low = harmonyVoice(length, score.HARMONY_LOW, { seed: 13, size: 0.9, late: 0.03, cents: -5 });
  const clapSignal = claps(length, score.CLAPS, stompSignal);
  const room = roomMicrophones(length, [
    { signal: stompSignal, leftMetres: 4.2, rightMetres: 4.3 },
    { signal: drumTop, leftMetres: 3.6, rightMetres: 4.4 },
    { signal: bass, leftMetres: 5, rightMetres: 4.2 },
    { signal: celloSignal, leftMetres: 4.8, rightMetres: 3.7 },
    { signal: dulcimerSides[0], leftMetres: 3.2, rightMetres: 4.6 },
    { signal: concertinaSides[1], leftMetres: 4.6, rightMetres: 3.4 },
    { signal: lead, leftMetres: 3, rightMetres: 3 },
    { signal: clapSignal, leftMetres: 5.1, rightMetres: 5.4 },
  ]);
  const mono = (
    id: string,
    name: string,
    part: string,
    ink: number,
    gainDb: number,
    pan: number,
    samples: Float64Array,
  ): Recording => ({
    id,
    name,
    part,
    ink,
    gainDb,
    pan,
    samples: [samples],
  });
  return [
    mono('stomp', 'Stomp', 'foot stomp', 0, -2, 0, stompSignal),
    mono('frame-drum', 'Frame drum', 'frame drum, top', 1, -4, -0.15, drumTop),
    mono(
      'frame-drum-underside',
      'Drum underside',
      'frame drum, underside',
      1,
      -8,
      -0.15,
      frameDrum(length, score.DRUM, 'underside'),
    ),
    mono('double-bass', 'Double bass', 'double bass', 2, -2, 0.05, bass),
    mono('cello', 'Cello', 'cello', 3, -3, 0.35, celloSignal),
    {
      id: 'dulcimer',
      name: 'Dulcimer',
      part: 'hammered dulcimer',
      ink: 4,
      gainDb: -1,
      pan: -0.2,
      samples: dulcimerSides,
    },
    {
      id: 'concertina',
      name: 'Concertina',
      part: 'concertina',
      ink: 5,
      gainDb: -4,
      pan: 0.25,
      samples: concertinaSides,
    },
    mono('lead-voice', 'Lead voice', 'voice', 6, 0, 0, lead),
    mono('harmony-high', 'Harmony high', 'voice', 7, -3, -0.4, high),
    mono('harmony-low', 'Harmony low', 'voice', 7, -3, 0.4, low),
    mono('claps', 'Claps', 'claps', 8, -5, 0.1, clapSignal),
    { id: 'room', name: 'Room', part: 'room microphones', ink: 8, gainDb: -9, pan: 0, samples: room },
  ];
}
