/** One part of a song that is kept as a Standard MIDI File (RP-001), as a file of its own. */

interface MidiEvent {
  tick: number;
  bytes: readonly number[];
}

export interface MidiPart {
  channel: number;
  /** Number of the General MIDI programme it begins with, 0 to 127; −1 the drums of channel 10. */
  program: number;
  notes: number;
}

const DRUM_CHANNEL = 9;

/** All events of a file in the order of their ticks, tempos among them. */
function readEvents(file: Uint8Array): { ticksPerBeat: number; events: MidiEvent[] } {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength);
  const ticksPerBeat = view.getUint16(12);
  const events: MidiEvent[] = [];
  for (let at = 14; at + 8 <= file.length;) {
    const end = at + 8 + view.getUint32(at + 4);
    at += 8;
    let tick = 0;
    let status = 0;
    const length = () => {
      let value = 0;
      for (;;) {
        const byte = file[at++];
        value = (value << 7) | (byte & 127);
        if (byte < 128) return value;
      }
    };
    while (at < end) {
      tick += length();
      if (file[at] >= 128) status = file[at++];
      if (status === 255) {
        const type = file[at++];
        const size = length();
        if (type === 0x51) events.push({ tick, bytes: [255, 0x51, 3, ...file.subarray(at, at + 3)] });
        at += size;
      } else if (status === 0xf0 || status === 0xf7) at += length();
      else {
        const size = (status & 0xe0) === 0xc0 ? 1 : 2;
        events.push({ tick, bytes: [status, ...file.subarray(at, at + size)] });
        at += size;
      }
    }
    at = end;
  }
  return {
    ticksPerBeat,
    events: events
      .map((event, i) => ({ event, i }))
      .sort((a, b) => a.event.tick - b.event.tick || a.i - b.i)
      .map(({ event }) => event),
  };
}

const isNote = ({ bytes }: MidiEvent) => (bytes[0] & 0xf0) === 0x90 && bytes[2] > 0;

/** The parts of a song, the one with the most notes first. */
export function partsOf(file: Uint8Array): MidiPart[] {
  const { events } = readEvents(file);
  return Array.from({ length: 16 }, (_, channel): MidiPart => {
    const own = events.filter(({ bytes }) => bytes[0] < 0xf0 && (bytes[0] & 15) === channel);
    const firstNote = own.findIndex(isNote);
    const program =
      own
        .slice(0, firstNote)
        .filter(({ bytes }) => (bytes[0] & 0xf0) === 0xc0)
        .pop()?.bytes[1] ?? 0;
    return { channel, program: channel === DRUM_CHANNEL ? -1 : program, notes: own.filter(isNote).length };
  })
    .filter(({ notes }) => notes > 0)
    .sort((a, b) => b.notes - a.notes);
}

const lengthBytes = (value: number): number[] =>
  value < 128 ? [value] : [...lengthBytes(value >> 7).map((byte) => byte | 128), value & 127];

/** Another instrument, and another key: how many semitones higher. */
export interface Arrangement {
  program: number;
  semitones: number;
}

function arranged({ tick, bytes }: MidiEvent, { program, semitones }: Arrangement): MidiEvent {
  const [status, first, ...rest] = bytes;
  if ((status & 0xf0) === 0xc0) return { tick, bytes: [status, program] };
  const isNoteEvent = (status & 0xe0) === 0x80;
  return isNoteEvent
    ? { tick, bytes: [status, Math.min(120, Math.max(16, first + semitones)), ...rest] }
    : { tick, bytes };
}

/** A file of one part alone, from its first note on (or from the song's beginning), so many seconds of it. */
export function onePart(
  file: Uint8Array,
  channel: number,
  seconds: number,
  { fromSongStart = false, arrangement }: { fromSongStart?: boolean; arrangement?: Arrangement } = {},
): Uint8Array {
  const { ticksPerBeat, events } = readEvents(file);
  const own = events
    .filter(({ bytes }) => bytes[0] >= 0xf0 || (bytes[0] & 15) === channel)
    .map((event) => (arrangement && event.bytes[0] < 0xf0 ? arranged(event, arrangement) : event));
  const start = fromSongStart ? 0 : (own.find(isNote)?.tick ?? 0);
  const track: number[] = arrangement ? [0, 0xc0 | channel, arrangement.program] : [];
  let [tick, elapsed, microseconds] = [0, 0, 500000];
  for (const event of own) {
    const at = Math.max(0, event.tick - start);
    if (isNote(event) && elapsed + ((at - tick) * microseconds) / ticksPerBeat / 1e6 > seconds) break;
    elapsed += ((at - tick) * microseconds) / ticksPerBeat / 1e6;
    track.push(...lengthBytes(at - tick), ...event.bytes);
    tick = at;
    if (event.bytes[0] === 255) microseconds = (event.bytes[3] << 16) | (event.bytes[4] << 8) | event.bytes[5];
  }
  // All notes off, and the end.
  track.push(0, 0xb0 | channel, 123, 0, 0, 255, 0x2f, 0);
  const out = new Uint8Array(22 + track.length);
  const view = new DataView(out.buffer);
  out.set(
    [...'MThd'].map((letter) => letter.charCodeAt(0)),
    0,
  );
  view.setUint32(4, 6);
  view.setUint16(8, 0);
  view.setUint16(10, 1);
  view.setUint16(12, ticksPerBeat);
  out.set(
    [...'MTrk'].map((letter) => letter.charCodeAt(0)),
    14,
  );
  view.setUint32(18, track.length);
  out.set(track, 22);
  return out;
}
