import type { Landmark } from './schema';

const KICK = ['kick', 'stomp', 'bass drum'];
const BASS = ['bass'];
const SNARE = ['snare', 'frame drum'];
const VOICE = ['voice', 'vocal', 'singer'];
const GROUP = ['harmony', 'harmonies', 'choir', 'backing'];
const HORNS = ['horn', 'trumpet', 'trombone', 'saxophone', 'concertina'];
const GUITAR = ['acoustic guitar', 'dulcimer', 'mandolin', 'bouzouki'];
const ELECTRIC = ['electric guitar'];
const PAD = ['pad', 'strings', 'synth'];
const ROOM = ['room', 'home'];

type Row = [parts: string[], lowHz: number, highHz: number, what: string, move: string];

/** Common practice: rules of the trade, with no source. They say where to listen, not what to do. */
const ROWS: Row[] = [
  [[], 20, 100, 'rumble, handling, pops', 'high-pass, 12 to 18 dB/oct'],
  [[...KICK, ...BASS], 20, 35, 'inaudible, eats headroom', 'high-pass'],
  [KICK, 50, 70, 'weight', 'boost here, cut the bass here'],
  [KICK, 70, 100, 'thud', 'low-pass a layer above it'],
  [KICK, 250, 300, 'boxy', 'cut'],
  [KICK, 2000, 6000, 'click', 'to taste'],
  [BASS, 500, 6000, 'harmonics in the way', 'low-pass a sub bass'],
  [SNARE, 100, 150, 'kick bleed', 'high-pass'],
  [SNARE, 195, 225, 'body', 'boost 2 to 3 dB'],
  [SNARE, 500, 700, 'ring', 'narrow cut, up to 10 dB, then widen'],
  [SNARE, 2000, 3000, 'smack', 'wide boost of 3 dB'],
  [SNARE, 8000, 9000, 'crack, rattle', 'wide boost of 4 to 9 dB, or a shelf'],
  [SNARE, 12000, 20000, 'needless', 'low-pass'],
  [VOICE, 20, 115, 'hum, room, pops', 'high-pass'],
  [VOICE, 125, 250, 'mud', 'cut 2 to 6 dB; careful with high voices'],
  [VOICE, 500, 1000, 'cheap, boxy', 'cut 2 to 6 dB'],
  [VOICE, 8000, 16000, 'sparkle, sibilance', 'boost 2 to 6 dB, in moderation'],
  [GROUP, 20, 300, 'needless', 'high-pass: 250 Hz alone, 300 Hz in the mix'],
  [HORNS, 20, 200, 'needless', 'high-pass: 100 to 150 Hz alone, 200 Hz in the mix'],
  [HORNS, 200, 240, 'warmth', 'small boost'],
  [HORNS, 9000, 11000, 'sparkle', 'small boost'],
  [GUITAR, 20, 75, 'rumble, boom', 'high-pass; in a full mix 140 to 200 Hz'],
  [ELECTRIC, 3000, 6000, 'brightness', 'boost 1 to 1.5 dB; often needless above'],
  [PAD, 20, 150, 'build-up under everything', 'high-pass, cut'],
  [ROOM, 115, 125, 'room resonance', 'cut 1 to 9 dB'],
  [ROOM, 210, 230, 'room resonance', 'cut 1 to 9 dB'],
  [ROOM, 300, 350, 'room resonance', 'cut 1 to 9 dB'],
  [ROOM, 7000, 8000, 'ringing', 'narrow cut'],
];

export const COMMON_LANDMARKS: readonly Landmark[] = ROWS.map(([parts, lowHz, highHz, what, move], i) => ({
  id: `common-${i + 1}`,
  parts,
  lowHz,
  highHz,
  what,
  move,
}));

/** The landmarks of a part, low ones first; what belongs to a special part comes in place of what belongs to every part in the same range. */
export function landmarksFor(landmarks: readonly Landmark[], part: string): Landmark[] {
  const words = part.toLowerCase();
  const own = landmarks.filter(({ parts }) => parts.some((part) => words.includes(part.toLowerCase())));
  const everyones = landmarks.filter(
    ({ parts, lowHz, highHz }) =>
      parts.length === 0 && !own.some((landmark) => landmark.lowHz < highHz && landmark.highHz > lowHz),
  );
  return [...own, ...everyones].sort((a, b) => a.lowHz - b.lowHz || a.highHz - b.highHz);
}
