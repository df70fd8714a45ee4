/** Lantern Ferry: a tune in D dorian, 4/4 at 96 beats a minute, sixteen bars and a last chord that rings out. */
export const BEAT_SECONDS = 60 / 96;
export const BAR_SECONDS = 4 * BEAT_SECONDS;
export const SONG_SECONDS = 16 * BAR_SECONDS + 2;

export const PARTS = [
  { name: 'Shore', startSeconds: 0 },
  { name: 'Rowing', startSeconds: 4 * BAR_SECONDS },
  { name: 'Far bank', startSeconds: 8 * BAR_SECONDS },
  { name: 'Landing', startSeconds: 12 * BAR_SECONDS },
];

/** A note: start and length in beats, pitch as a MIDI number, 0 to 1 for how strongly it is played. */
export interface Note {
  beat: number;
  beats: number;
  midi: number;
  strength: number;
}

interface Chord {
  bass: number;
  tones: readonly [number, number, number];
}

const Dm: Chord = { bass: 38, tones: [62, 65, 69] };
const C: Chord = { bass: 36, tones: [60, 64, 67] };
const F: Chord = { bass: 41, tones: [60, 65, 69] };
const Am: Chord = { bass: 33, tones: [60, 64, 69] };
const G: Chord = { bass: 43, tones: [59, 62, 67] };
const Bb: Chord = { bass: 34, tones: [62, 65, 70] };

/** One chord a bar. */
export const CHORDS: readonly Chord[] = [Dm, C, Dm, Am, Dm, F, C, Dm, Bb, F, C, Dm, Dm, G, Am, Dm];

const note = (beat: number, beats: number, midi: number, strength = 0.8): Note => ({ beat, beats, midi, strength });
const bars = (from: number, to: number) => Array.from({ length: to - from }, (_, i) => from + i);

/** Which bars an instrument plays, counted from 0; the end is not included. */
export const STOMP: readonly Note[] = bars(4, 14).flatMap((bar) => [
  note(bar * 4, 1, 33, 1),
  note(bar * 4 + 2, 1, 33, 0.8),
  ...(bar % 4 === 3 ? [note(bar * 4 + 3.5, 0.5, 33, 0.5)] : []),
]);

export const DRUM: readonly Note[] = bars(4, 15).flatMap((bar) => {
  const at = bar * 4;
  const busy = bar >= 8 && bar < 12;
  return [
    note(at, 1, 45, 0.7),
    note(at + 1, 0.5, 45, 0.95),
    note(at + 1.75, 0.25, 45, 0.35),
    note(at + 2.5, 0.5, 45, 0.5),
    note(at + 3, 1, 45, 0.9),
    ...(busy ? [note(at + 0.5, 0.5, 45, 0.35), note(at + 3.5, 0.25, 45, 0.45), note(at + 3.75, 0.25, 45, 0.4)] : []),
  ];
});

export const BASS: readonly Note[] = bars(4, 16).flatMap((bar) => {
  const { bass } = CHORDS[bar];
  const at = bar * 4;
  if (bar === 15) return [note(at, 4, bass, 0.9)];
  return [
    note(at, 1.5, bass, 0.95),
    note(at + 1.5, 0.5, bass + 7, 0.6),
    note(at + 2, 1.5, bass, 0.8),
    note(at + 3.5, 0.5, bass + 7, 0.55),
  ];
});

export const CELLO: readonly Note[] = [
  ...bars(0, 4).map((bar) => note(bar * 4, 4, bar === 1 ? 48 : bar === 3 ? 45 : 50, 0.55)),
  ...bars(4, 8).flatMap((bar) => [
    note(bar * 4, 2, CHORDS[bar].tones[0] - 12, 0.7),
    note(bar * 4 + 2, 2, CHORDS[bar].tones[1] - 12, 0.75),
  ]),
  ...bars(8, 12).flatMap((bar) => [
    note(bar * 4, 1.5, CHORDS[bar].tones[1] - 12, 0.95),
    note(bar * 4 + 1.5, 1.5, CHORDS[bar].tones[0] - 12, 0.85),
    note(bar * 4 + 3, 1, CHORDS[bar].tones[2] - 12, 0.9),
  ]),
  ...bars(12, 16).map((bar) => note(bar * 4, 4, CHORDS[bar].tones[0] - 12, bar === 15 ? 0.5 : 0.65)),
];

/** Broken chords, low tone first, with the top doubled by the octave. */
export const DULCIMER: readonly Note[] = bars(0, 16).flatMap((bar) => {
  const [a, b, c] = CHORDS[bar].tones;
  const at = bar * 4;
  if (bar === 15)
    return [
      note(at, 4, a, 0.7),
      note(at + 0.08, 4, b, 0.65),
      note(at + 0.16, 4, c, 0.7),
      note(at + 0.28, 4, a + 12, 0.75),
    ];
  const figure = bar >= 8 && bar < 12 ? [a, c, b, a + 12, c, b + 12, c, a + 12] : [a, b, c, a + 12, c, b, c, b];
  const soft = bar < 4 || bar >= 12 ? 0.62 : 0.8;
  return figure.map((midi, i) => note(at + i / 2, 1, midi, soft * (i % 4 === 0 ? 1.15 : i % 2 === 0 ? 0.95 : 0.8)));
});

export const CONCERTINA: readonly Note[] = [
  ...bars(6, 8).flatMap((bar) => CHORDS[bar].tones.map((midi) => note(bar * 4, 3.9, midi, 0.45))),
  ...bars(8, 12).flatMap((bar) => [
    ...CHORDS[bar].tones
      .slice(0, 2)
      .flatMap((midi) => [note(bar * 4, 1.9, midi, 0.55), note(bar * 4 + 2, 1.9, midi, 0.55)]),
    note(bar * 4, 1, CHORDS[bar].tones[2] + 12, 0.75),
    note(bar * 4 + 1, 0.5, CHORDS[bar].tones[1] + 12, 0.7),
    note(bar * 4 + 1.5, 0.5, CHORDS[bar].tones[2] + 12, 0.65),
    note(bar * 4 + 2, 1.9, CHORDS[bar].tones[0] + 12, 0.75),
  ]),
  ...bars(12, 14).flatMap((bar) => CHORDS[bar].tones.slice(0, 2).map((midi) => note(bar * 4, 3.9, midi, 0.4))),
];

export const CLAPS: readonly Note[] = bars(8, 13).flatMap((bar) => [
  note(bar * 4 + 1, 0.5, 60, 0.9),
  note(bar * 4 + 3, 0.5, 60, 1),
]);

/** A sung syllable: the consonants before it, its vowel, a consonant that ends it. */
export interface Syllable extends Note {
  onset: string;
  vowel: 'a' | 'e' | 'i' | 'o' | 'u';
  coda: string;
}

const sing = (beat: number, beats: number, midi: number, spelling: string, strength = 0.8): Syllable => {
  const [, onset, vowel, coda] = /^([^aeiou]*)([aeiou])(.*)$/.exec(spelling)!;
  return { beat, beats, midi, strength, onset, vowel: vowel as Syllable['vowel'], coda };
};

/** "Paper boat and silver sea, carry slowly over me …": four lines of the ferry song. */
export const LEAD: readonly Syllable[] = [
  sing(4, 1, 62, 'pe', 0.7),
  sing(5, 0.5, 64, 'pa', 0.65),
  sing(5.5, 1.5, 65, 'bot', 0.75),
  sing(7, 1, 64, 'an', 0.6),
  sing(8, 1, 62, 'si', 0.75),
  sing(9, 0.5, 60, 'la', 0.65),
  sing(9.5, 2.2, 62, 'si', 0.75),
  sing(12, 1, 57, 'so', 0.7),
  sing(13, 0.5, 60, 'li', 0.65),
  sing(13.5, 2.2, 64, 'me', 0.7),
  sing(16, 1, 69, 'la', 0.85),
  sing(17, 0.5, 67, 'tan', 0.75),
  sing(17.5, 1, 65, 'fe', 0.8),
  sing(18.5, 1.2, 64, 'ri', 0.75),
  sing(20, 1, 65, 'bi', 0.8),
  sing(21, 0.5, 67, 'sa', 0.75),
  sing(21.5, 2, 69, 'lo', 0.85),
  sing(24, 1, 67, 'pu', 0.8),
  sing(25, 0.5, 64, 'la', 0.75),
  sing(25.5, 1, 62, 'mi', 0.75),
  sing(26.5, 1.2, 60, 'sa', 0.75),
  sing(28, 3, 62, 'bos', 0.8),
  sing(32, 1.5, 74, 'la', 1),
  sing(33.5, 0.5, 72, 'na', 0.85),
  sing(34, 1.8, 70, 'so', 0.95),
  sing(36, 1.5, 72, 'pe', 0.95),
  sing(37.5, 0.5, 69, 'la', 0.85),
  sing(38, 1.8, 65, 'bes', 0.9),
  sing(40, 1, 67, 'si', 0.95),
  sing(41, 1, 69, 'na', 0.9),
  sing(42, 1, 67, 'mo', 0.9),
  sing(43, 1, 64, 'sa', 0.85),
  sing(44, 3.2, 62, 'po', 0.9),
  sing(48, 1, 62, 'la', 0.75),
  sing(49, 0.5, 64, 'tan', 0.7),
  sing(49.5, 2.2, 65, 'so', 0.75),
  sing(52, 1, 67, 'be', 0.75),
  sing(53, 0.5, 65, 'ma', 0.65),
  sing(53.5, 2, 62, 'si', 0.7),
  sing(56, 1, 60, 'pa', 0.7),
  sing(57, 0.5, 62, 'lo', 0.65),
  sing(57.5, 2, 64, 'na', 0.7),
  sing(60, 4.5, 62, 'mas', 0.7),
];

/** The harmonies sing the words of the lead in the far bank and the landing, a third above or a fourth below, in the mode. */
function harmony(steps: number): Syllable[] {
  const mode = [0, 2, 3, 5, 7, 9, 10];
  return LEAD.filter(({ beat }) => beat >= 32).map((syllable) => {
    const above = syllable.midi - 62;
    const degree =
      mode.findLastIndex((pitch) => pitch <= ((above % 12) + 12) % 12) + Math.floor(above / 12) * 7 + steps;
    const midi = 62 + Math.floor(degree / 7) * 12 + mode[((degree % 7) + 7) % 7];
    return { ...syllable, midi, strength: syllable.strength * 0.75 };
  });
}

export const HARMONY_HIGH = harmony(2);
export const HARMONY_LOW = harmony(-3);
