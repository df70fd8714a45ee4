import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { onePart, partsOf, type Arrangement } from './midi';

/**
 * Recordings to plant faults in, of Debian packages: real ones (`sonic-pi-samples`, CC0), instruments played from MIDI files
 * (`openttd-openmsx`, with `fluidsynth` and `fluid-soundfont-gm`), and speech (`espeak-ng`).
 */
export interface Recording {
  name: string;
  family: 'loop' | 'played samples' | 'pitched' | 'drums' | 'speech';
  /** Learnt from; what thresholds are set on; only reported. */
  part: 'learning' | 'calibration' | 'report';
  make: () => Float32Array;
}

export const RATE = 48000;
export const SECONDS = 30;
const SAMPLES = '/usr/share/sonic-pi/samples';
export const MIDI_FOLDER = '/usr/share/games/openttd/baseset/openmsx';
const SOUND_FONTS = ['FluidR3_GM', 'TimGM6mb'].map((name) => `/usr/share/sounds/sf2/${name}.sf2`);
const folder = join(tmpdir(), 'orvid-suspects');

const LONG_SAMPLES =
  /^(loop_(3d_printer|amen|amen_full|breakbeat|compus|drone_g_97|electric|garzul|industrial|mehackit1|mehackit2|mika|perc1|perc2|safari|tabla|weirdo)|guit_e_fifths|guit_e_slide|guit_em9|guit_harmonics|ambi_piano|ambi_choir|bass_dnb_f|bass_trance_c|bass_voxy_c)$/;
const ONE_SHOTS: Readonly<Record<string, RegExp>> = {
  'drum kit': /^drum_(heavy_kick|snare_hard|snare_soft|cymbal_closed|cymbal_open|tom_.*_hard|cymbal_pedal|cowbell)$/,
  'electric kit': /^(bd_haus|bd_fat|elec_snare|elec_hi_snare|elec_tick|elec_cymbal|elec_bong)$/,
  tabla: /^tabla_/,
  knocks: /^(perc_|elec_)(wood|snap|snap2|impact1|door|till|twip|pop|plip)$/,
};
/** Each part is arranged so many times. */
const ARRANGEMENTS = 5;
const SPEECH: Readonly<Record<string, string>> = {
  en: 'The ferry leaves at six, she said, and swung the lantern twice across the stern. Such mist this season, such soft and silver shores. Put the best rope on the post, pull, and push the boat past the pier.',
  'en-us+f3':
    'Seven sailors sat and sang beside the stove. Which of these songs is the shortest, and whose voice is it? Sixty six steps to the ship, then straight across, as fast as she goes.',
  de: 'Die Fähre fährt um sechs, sagte sie und schwang die Laterne. So viel Nebel, so sanfte silberne Ufer. Zieh das Seil fest, Schiff und Fluss schlafen schon.',
  'fr+m2':
    'Le bac part à six heures, dit-elle, et la lanterne se balance. Ces chansons sont si douces, sous ce ciel sans soleil.',
};

/** FNV-1a: the same number for the same text everywhere. */
export function hash(text: string): number {
  let value = 0x811c9dc5;
  for (const letter of text) value = Math.imul(value ^ letter.charCodeAt(0), 0x01000193) >>> 0;
  return value;
}

/** Numbers from 0 to 1 by seed (xorshift32). */
export function random(seed: string): () => number {
  let state = hash(seed) || 1;
  const next = () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 2 ** 32;
  };
  for (let i = 0; i < 8; i++) next();
  return next;
}

const partOf = (i: number): Recording['part'] => (i % 2 === 1 ? 'report' : i % 8 === 0 ? 'calibration' : 'learning');

/** Runs a program. @returns what it printed */
export function call(command: string, args: readonly string[]): Buffer {
  const { status, stdout, stderr } = spawnSync(command, args, { maxBuffer: 2 ** 30 });
  if (status !== 0) throw new Error(`${command} ${args.join(' ')}: ${String(stderr)}`);
  return stdout;
}

export function decode(path: string): Float32Array {
  const bytes = call('ffmpeg', ['-v', 'error', '-i', path, '-ac', '1', '-ar', `${RATE}`, '-f', 'f32le', '-']);
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
}

function looped(samples: Float32Array): Float32Array {
  const out = new Float32Array(SECONDS * RATE);
  for (let n = 0; n < out.length; n++) out[n] = samples[n % samples.length];
  return out;
}

const samplePath = (name: string) => join(SAMPLES, `${name}.flac`);
const sampleNames = () =>
  readdirSync(SAMPLES).flatMap((file) => (file.endsWith('.flac') ? [basename(file, '.flac')] : []));

/** A pattern of one-shots that goes on with changes. */
function pattern(seed: string, isShot: RegExp, most = 12): Float32Array {
  const draw = random(seed);
  const names = sampleNames().filter((name) => isShot.test(name));
  const chosen =
    names.length <= most ? names : Array.from({ length: most }, () => names[Math.floor(draw() * names.length)]);
  const shots = chosen.map((name) => decode(samplePath(name)));
  const out = new Float32Array(SECONDS * RATE);
  const step = Math.round((0.11 + 0.06 * draw()) * RATE);
  const bar = Array.from({ length: 16 }, () => (draw() < 0.65 ? Math.floor(draw() * shots.length) : -1));
  for (let at = 0, i = 0; at < out.length; at += step, i++) {
    const shot = shots[draw() < 0.15 ? Math.floor(draw() * shots.length) : bar[i % 16]];
    const gain = 0.2 + 0.3 * draw();
    for (let n = 0; shot && n < shot.length && at + n < out.length; n++) out[at + n] += gain * shot[n];
  }
  return out;
}

/** A tune of one sample, played faster and slower. */
function tuneOf(name: string): Float32Array {
  const shot = decode(samplePath(name));
  const draw = random(name);
  const out = new Float32Array(SECONDS * RATE);
  for (let at = 0; at < out.length; at += Math.round(0.3 * RATE)) {
    const speed = 2 ** ([-5, -3, -1, 0, 2, 4, 7][Math.floor(7 * draw())] / 12);
    const length = Math.min(Math.floor(shot.length / speed) - 1, Math.round(0.6 * RATE), out.length - at);
    for (let n = 0; n < length; n++) {
      const from = n * speed;
      const [i, share] = [Math.floor(from), from % 1];
      out[at + n] += 0.4 * Math.min(1, (length - n) / 2000) * (shot[i] + share * ((shot[i + 1] ?? 0) - shot[i]));
    }
  }
  return out;
}

/** A part of a song, played. */
function playedPart(
  song: Uint8Array,
  channel: number,
  seconds: number,
  options: { hasRoom: boolean; fromSongStart: boolean; soundFont?: string; arrangement?: Arrangement },
): Float32Array {
  const { hasRoom, fromSongStart, soundFont = SOUND_FONTS[0], arrangement } = options;
  const [from, to] = ['mid', 'wav'].map((end) => join(folder, `part-${process.pid}.${end}`));
  writeFileSync(from, onePart(song, channel, seconds, { fromSongStart, arrangement }));
  const room = ['-R', hasRoom ? '1' : '0'];
  call('fluidsynth', ['-ni', '-q', '-g', '0.4', ...room, '-C', '0', '-r', `${RATE}`, '-F', to, soundFont, from]);
  return decode(to).slice(0, seconds * RATE);
}

export const kept = (name: string, make: () => Float32Array): Float32Array => {
  mkdirSync(folder, { recursive: true });
  const path = join(folder, `${name}.f32`);
  if (!existsSync(path)) {
    const samples = make();
    writeFileSync(path, Buffer.from(samples.buffer, samples.byteOffset, samples.byteLength));
  }
  const bytes = readFileSync(path);
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
};

/** All parts of a song, played from its beginning on. */
export const songStems = (song: Uint8Array, name: string, seconds: number) =>
  partsOf(song).map(({ channel, program }) => ({
    channel,
    program,
    samples: kept(`stem ${name} ${channel} ${seconds}`, () =>
      playedPart(song, channel, seconds, { hasRoom: false, fromSongStart: true }),
    ),
  }));

function spoken(voice: string, text: string): Float32Array {
  const to = join(folder, 'speech.wav');
  call('espeak-ng', ['-v', voice, '-s', '150', '-w', to, text]);
  return looped(decode(to));
}

/** Voices besides, of other speakers: as many of each part; what is reported has other texts and languages than what is set on. */
const SPEAKERS = ['m1', 'm3', 'm6', 'm7', 'f1', 'f2', 'f4', 'f5'];
const LANGUAGES: Readonly<Partial<Record<Recording['part'], readonly string[]>>> = {
  calibration: ['en', 'de'],
  report: ['en-us+f3', 'fr+m2'],
};
export const voices = (part: Recording['part']): Recording[] =>
  (LANGUAGES[part] ?? []).flatMap((language) =>
    SPEAKERS.map((speaker): Recording => {
      const voice = `${language.replace(/\+.*/, '')}+${speaker}`;
      return { name: `speech ${voice}`, family: 'speech', part, make: () => spoken(voice, SPEECH[language]) };
    }),
  );

const songNames = () =>
  readdirSync(MIDI_FOLDER)
    .filter((file) => file.endsWith('.mid'))
    .sort();

/** Parts of songs, those with the most notes first. A song's parts stay together: what is reported knows nothing of what was set on. */
function playedParts(most: number, fewestNotes: number, soundFont: number): Recording[] {
  return songNames().flatMap((file, i) => {
    const song = readFileSync(join(MIDI_FOLDER, file));
    return partsOf(song)
      .filter(({ notes }) => notes >= fewestNotes)
      .slice(0, most)
      .map(({ channel, program }): Recording => {
        const name = `${basename(file, '.mid')} ${channel + 1} (${program < 0 ? 'drums' : `programme ${program + 1}`})${soundFont > 0 ? ' other' : ''}`;
        const hasRoom = hash(name) % 3 !== 0;
        return {
          name,
          family: program < 0 ? 'drums' : 'pitched',
          part: partOf(i),
          make: () =>
            playedPart(song, channel, SECONDS, { hasRoom, fromSongStart: false, soundFont: SOUND_FONTS[soundFont] }),
        };
      });
  });
}

/** Parts of the songs that are learnt from, by other instruments and in other keys. */
function arrangedParts(variant: number): Recording[] {
  return songNames().flatMap((file, i) => {
    if (partOf(i) !== 'learning') return [];
    const song = readFileSync(join(MIDI_FOLDER, file));
    return partsOf(song)
      .filter(({ notes, program }) => notes >= 60 && program >= 0)
      .slice(0, 5)
      .map(({ channel }): Recording => {
        const draw = random(`${file} ${channel} ${variant}`);
        // Sound effects, the last eight, are left out.
        const arrangement = { program: Math.floor(120 * draw()), semitones: Math.floor(12 * draw()) - 5 };
        const hasRoom = draw() < 0.6;
        return {
          name: `more ${basename(file, '.mid')} ${channel + 1} as ${arrangement.program + 1} ${variant}`,
          family: 'pitched',
          part: 'learning',
          make: () =>
            playedPart(song, channel, SECONDS, {
              hasRoom,
              fromSongStart: false,
              arrangement,
              soundFont: SOUND_FONTS[variant % 2],
            }),
        };
      });
  });
}

/** Recordings of all parts, in a fixed order. */
export function recordings(): Recording[] {
  mkdirSync(folder, { recursive: true });
  const loops = sampleNames()
    .filter((name) => LONG_SAMPLES.test(name))
    .map((name, i): Recording => ({
      name,
      family: 'loop',
      part: partOf(i),
      make: () => looped(decode(samplePath(name))),
    }));
  const kits = Object.entries(ONE_SHOTS).map(([name, isShot], i): Recording => ({
    name,
    family: 'played samples',
    part: partOf(i),
    make: () => pattern(name, isShot, 30),
  }));
  const speech = Object.entries(SPEECH).map(([voice, text], i): Recording => ({
    name: `speech ${voice}`,
    family: 'speech',
    part: partOf(i),
    make: () => spoken(voice, text),
  }));
  return [...loops, ...kits, ...playedParts(3, 60, 0), ...speech];
}

/** What is learnt from: its part, and more of the same kinds; nothing of the other parts. */
export function learningRecordings(): Recording[] {
  const more = (name: string, family: Recording['family'], make: () => Float32Array): Recording => ({
    name: `more ${name}`,
    family,
    part: 'learning',
    make,
  });
  const pools = { drums: /^drum_/, tabla: /^tabla_/, glitches: /^(glitch|mehackit|vinyl)_/ };
  const patterns = Object.entries(pools).flatMap(([name, isShot]) =>
    Array.from({ length: 6 }, (_, i) =>
      more(`${name} ${i}`, 'played samples', () => pattern(`${name} ${i}`, isShot, 6)),
    ),
  );
  const tunes = [
    'bass_woodsy_c',
    'elec_bell',
    'elec_twang',
    'elec_chime',
    'perc_bell',
    'bass_thick_c',
    'elec_ping',
  ].map((name) => more(name, 'pitched', () => tuneOf(name)));
  const voices = ['en-gb', 'en+f2', 'it', 'es', 'pt', 'nl', 'de+f4', 'sv'].map((voice) =>
    more(`speech ${voice}`, 'speech', () => spoken(voice, SPEECH.en)),
  );
  const all = [...recordings(), ...playedParts(7, 40, 0), ...playedParts(7, 40, 1)].filter(
    ({ part }) => part === 'learning',
  );
  const arrangements = Array.from({ length: ARRANGEMENTS }, (_, i) => arrangedParts(i)).flat();
  const once = new Map(all.map((recording) => [recording.name, recording]));
  return [...once.values(), ...patterns, ...tunes, ...voices, ...arrangements];
}

/** Its samples, mono, at 48 kHz; made once and kept in the folder for temporary files. */
export const samplesOf = ({ name, make }: Recording): Float32Array => kept(name, make);
