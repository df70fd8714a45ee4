/** What a sound file says of itself. */
export interface SoundTags {
  /** What it is: “Cello”. */
  title: string;
  /** The song that it is of. */
  song: string;
  /** The part of the song; empty for the whole. */
  part: string;
  /** Why it was made. */
  why: string;
  /** When what it was made of was changed last, `2026-11-27T20:15:00Z`; empty where that is not known. */
  changedAt: string;
  /** Where it begins in the song, frames. */
  startFrame: number;
}

/** Loudness of a file, as `bext` has room for. */
export interface TagFigures {
  integratedLufs: number | null;
  loudnessRangeLu: number;
  truePeakDbtp: number;
  highestMomentaryLufs: number | null;
  highestShortTermLufs: number | null;
}

const PROGRAM = 'Orvid';
const inWords = ({ title, song, part }: SoundTags) => [song, part, title].filter(Boolean).join(', ');

function chunk(name: string, body: Uint8Array): Uint8Array {
  const bytes = new Uint8Array(8 + body.length + (body.length % 2));
  for (let i = 0; i < 4; i++) bytes[i] = name.charCodeAt(i);
  new DataView(bytes.buffer).setUint32(4, body.length, true);
  bytes.set(body, 8);
  return bytes;
}

/** ASCII is asked for; readers take UTF-8 too. Cut between letters. */
function fitted(text: string, most: number): Uint8Array {
  let bytes = new TextEncoder().encode(text);
  for (let letters = [...text]; bytes.length > most; bytes = new TextEncoder().encode(letters.join('')))
    letters = letters.slice(0, letters.length - Math.max(1, Math.ceil((bytes.length - most) / 4)));
  return bytes;
}

const BEXT_BYTES = 602;
const UNSET = 0x7fff;

/** Source: EBU Tech 3285, version 2. */
function bext(tags: SoundTags, figures: TagFigures | null): Uint8Array {
  const body = new Uint8Array(BEXT_BYTES);
  const view = new DataView(body.buffer);
  const put = (at: number, length: number, text: string) => body.set(fitted(text, length), at);
  put(0, 256, [inWords(tags), tags.why].filter(Boolean).join(': '));
  put(256, 32, PROGRAM);
  put(320, 10, tags.changedAt.slice(0, 10));
  put(330, 8, tags.changedAt.slice(11, 19));
  view.setBigUint64(338, BigInt(tags.startFrame), true);
  view.setUint16(346, 2, true);
  const loudness = figures && [
    figures.integratedLufs,
    figures.integratedLufs === null ? null : figures.loudnessRangeLu,
    figures.truePeakDbtp,
    figures.highestMomentaryLufs,
    figures.highestShortTermLufs,
  ];
  for (let i = 0; i < 5; i++) {
    const value = loudness?.[i] ?? null;
    const fits = value !== null && Math.abs(value) <= 99.99;
    view.setInt16(412 + 2 * i, fits ? Math.round(100 * value) : UNSET, true);
  }
  return body;
}

/** Source: Multimedia Programming Interface and Data Specifications 1.0, IBM and Microsoft, 1991: `LIST` of type `INFO`. */
function info(tags: SoundTags): Uint8Array {
  const fields = {
    INAM: inWords(tags),
    IPRD: tags.song,
    ICMT: tags.why,
    ICRD: tags.changedAt.slice(0, 10),
    ISFT: PROGRAM,
  };
  const parts = Object.entries(fields)
    .filter(([, text]) => text !== '')
    .map(([name, text]) => chunk(name, new TextEncoder().encode(`${text}\0`)));
  return joined([new TextEncoder().encode('INFO'), ...parts]);
}

function joined(parts: readonly Uint8Array[]): Uint8Array {
  const all = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
}

/** The chunks `bext` and `LIST` of a WAV file: the same length with figures as without. */
export const wavTags = (tags: SoundTags, figures: TagFigures | null): Uint8Array =>
  joined([chunk('bext', bext(tags, figures)), chunk('LIST', info(tags))]);

/** `NAME=value`, as Vorbis comments have it. Source: RFC 9639, section 8.6; names: xiph.org, “Ogg Vorbis I format specification: comment field”. */
function comments(tags: SoundTags): string[] {
  const fields = {
    TITLE: inWords(tags),
    ALBUM: tags.song,
    DESCRIPTION: tags.why,
    DATE: tags.changedAt.slice(0, 10),
    ENCODER: PROGRAM,
    TIME_REFERENCE: String(tags.startFrame),
  };
  return Object.entries(fields).flatMap(([name, text]) => (text === '' ? [] : [`${name}=${text}`]));
}

/** The body of a block of Vorbis comments. */
export function vorbisComments(tags: SoundTags): Uint8Array {
  const texts = [PROGRAM, ...comments(tags)].map((text) => new TextEncoder().encode(text));
  const number = (value: number) => {
    const bytes = new Uint8Array(4);
    new DataView(bytes.buffer).setUint32(0, value, true);
    return bytes;
  };
  const [vendor, ...rest] = texts.map((bytes) => joined([number(bytes.length), bytes]));
  return joined([vendor, number(rest.length), ...rest]);
}

/** An ID3 tag. Source: id3.org, “ID3 tag version 2.4.0”, in UTF-8. */
export function id3Tag(tags: SoundTags): Uint8Array {
  const safe = (value: number) => new Uint8Array([21, 14, 7, 0].map((bits) => (value >> bits) & 0x7f));
  const frame = (name: string, body: Uint8Array) =>
    joined([new TextEncoder().encode(name), safe(body.length), new Uint8Array(2), body]);
  const text = (name: string, value: string) =>
    value === '' ? [] : [frame(name, joined([new Uint8Array([3]), new TextEncoder().encode(value)]))];
  const why = joined([new Uint8Array([3]), new TextEncoder().encode(`eng\0${tags.why}`)]);
  const frames = joined([
    ...text('TIT2', inWords(tags)),
    ...text('TALB', tags.song),
    ...text('TDRC', tags.changedAt.slice(0, 10)),
    ...text('TSSE', PROGRAM),
    ...(tags.why === '' ? [] : [frame('COMM', why)]),
  ]);
  return joined([new Uint8Array([0x49, 0x44, 0x33, 4, 0, 0]), safe(frames.length), frames]);
}
