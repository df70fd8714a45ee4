import {
  asciiText as text,
  chunksOf,
  markersAt,
  MOST_MARKERS,
  NO_NOTES,
  type ReadAt,
  type RecordingNotes,
} from './recording-notes';
import { nameWithin } from './text';

/** Text in a chunk ends with a zero. Most programs write Latin-1 or UTF-8. */
function words(bytes: Uint8Array): string {
  const end = bytes.indexOf(0);
  return new TextDecoder('utf-8').decode(end < 0 ? bytes : bytes.subarray(0, end)).trim();
}

const CHUNKS = ['fmt ', 'cue ', 'LIST', 'bext', 'iXML'];
/** Where `bext` has its time reference, bytes. */
const TIME_REFERENCE_AT = 338;

/**
 * Cue points, time reference and names of channels of a WAV, RF64 or BW64 file; nothing of what is no WAV file. The sound itself is not read.
 * Source: "Multimedia Programming Interface and Data Specifications 1.0", IBM and Microsoft, 1991: chunks `cue ` and `LIST` of type `adtl`;
 * EBU Tech 3285: `bext`; the iXML specification, version 1.61: `TRACK_LIST`.
 * @param size of the file, bytes
 */
export async function readWavNotes(readAt: ReadAt, size: number): Promise<RecordingNotes> {
  const head = await readAt(0, 12);
  if (head.length < 12 || !['RIFF', 'RF64', 'BW64'].includes(text(head, 0, 4)) || text(head, 8, 4) !== 'WAVE')
    return NO_NOTES;
  let rateHz = 0;
  let timeReference: bigint | null = null;
  let channelNames: string[] = [];
  const points = new Map<number, number>();
  const labels = new Map<number, string>();
  for await (const { name, body, view } of chunksOf(readAt, size, { names: CHUNKS, isLittleEndian: true }))
    if (name === 'fmt ' && body.length >= 8) rateHz = view.getUint32(4, true);
    else if (name === 'cue ') readPoints(view, points);
    else if (name === 'LIST' && text(body, 0, 4) === 'adtl') readLabels(body, view, labels);
    else if (name === 'bext' && body.length >= TIME_REFERENCE_AT + 8)
      timeReference = view.getBigUint64(TIME_REFERENCE_AT, true);
    else if (name === 'iXML') channelNames = readChannelNames(new TextDecoder('utf-8').decode(body));
  if (rateHz === 0) return NO_NOTES;
  return {
    rateHz,
    markers: markersAt(
      [...points].map(([id, frame]) => ({ frame, name: labels.get(id) ?? '' })),
      rateHz,
    ),
    timeReferenceSeconds: timeReference === null ? null : Number(timeReference) / rateHz,
    channelNames,
  };
}

const ENTITIES: Record<string, string> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" };
const plainText = (xml: string) =>
  nameWithin(
    xml
      .replace(/<[^>]*>/g, '')
      .replace(/&(amp|lt|gt|quot|apos);/g, (_, entity: string) => ENTITIES[entity])
      .replace(/\s+/g, ' ')
      .trim(),
  );
const MOST_CHANNELS = 64;

/** The names of an iXML track list, by the places of the channels in the file. */
function readChannelNames(xml: string): string[] {
  const valueOf = (track: string, tag: string) =>
    plainText(new RegExp(`<${tag}>([^]{0,500}?)</${tag}>`).exec(track)?.[1] ?? '');
  const names: string[] = [];
  const tracks = xml.match(/<TRACK>[^]{0,4000}?<\/TRACK>/g) ?? [];
  for (const [i, track] of tracks.slice(0, MOST_CHANNELS).entries()) {
    const place = Number(valueOf(track, 'INTERLEAVE_INDEX') || valueOf(track, 'CHANNEL_INDEX') || i + 1);
    if (Number.isInteger(place) && place >= 1 && place <= MOST_CHANNELS) names[place - 1] = valueOf(track, 'NAME');
  }
  return Array.from(names, (name) => name ?? '');
}

function readPoints(view: DataView, points: Map<number, number>): void {
  if (view.byteLength < 4) return;
  const count = Math.min(MOST_MARKERS, view.getUint32(0, true), Math.floor((view.byteLength - 4) / 24));
  for (let i = 0; i < count; i++) points.set(view.getUint32(4 + 24 * i, true), view.getUint32(4 + 24 * i + 20, true));
}

function readLabels(body: Uint8Array, view: DataView, labels: Map<number, string>): void {
  for (let at = 4; at + 12 <= body.length;) {
    const length = view.getUint32(at + 4, true);
    if (text(body, at, 4) === 'labl' && length >= 4)
      labels.set(view.getUint32(at + 8, true), words(body.subarray(at + 12, Math.min(body.length, at + 8 + length))));
    at += 8 + length + (length % 2);
  }
}

/** Recordings of one session lie within so long of each other; what says otherwise counts from elsewhere. */
const MOST_APART_SECONDS = 3600;

/** Where files begin, by what they say of where they were recorded: the earliest at the beginning. 0 where not all of them say it. */
export function startsOf(references: readonly (number | null)[]): number[] {
  const known = references.filter((seconds): seconds is number => seconds !== null);
  const first = Math.min(...known);
  const isSession =
    references.length > 1 && known.length === references.length && Math.max(...known) - first <= MOST_APART_SECONDS;
  return references.map((seconds) => (isSession ? seconds! - first : 0));
}
