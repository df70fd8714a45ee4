/** A cue point of a WAV file, with its label where it has one. */
export interface WavMarker {
  name: string;
  seconds: number;
}

/** Reads some bytes of a file; fewer where it ends. */
type ReadAt = (from: number, length: number) => Promise<Uint8Array>;

const MOST_MARKERS = 1000;
/** Chunks of marks are small: a longer one is not read. */
const LONGEST_CHUNK = 1 << 20;
/** So many chunks are looked through. */
const MOST_CHUNKS = 500;

const text = (bytes: Uint8Array, from: number, length: number) =>
  String.fromCharCode(...bytes.subarray(from, from + length));
/** Text in a chunk ends with a zero. Most programs write Latin-1 or UTF-8. */
function words(bytes: Uint8Array): string {
  const end = bytes.indexOf(0);
  return new TextDecoder('utf-8').decode(end < 0 ? bytes : bytes.subarray(0, end)).trim();
}

/**
 * The cue points of a WAV or RF64 file, in their order in time; none of what is no WAV file, or holds none. The sound itself is not read.
 * Source: "Multimedia Programming Interface and Data Specifications 1.0", IBM and Microsoft, 1991: chunks `cue ` and `LIST` of type `adtl`.
 * @param size of the file, bytes
 */
export async function readWavMarkers(readAt: ReadAt, size: number): Promise<WavMarker[]> {
  const head = await readAt(0, 12);
  if (head.length < 12 || !['RIFF', 'RF64'].includes(text(head, 0, 4)) || text(head, 8, 4) !== 'WAVE') return [];
  let rateHz = 0;
  const points = new Map<number, number>();
  const labels = new Map<number, string>();
  for (let at = 12, chunks = 0; at + 8 <= size && chunks < MOST_CHUNKS; chunks++) {
    const header = await readAt(at, 8);
    if (header.length < 8) break;
    const name = text(header, 0, 4);
    let length = new DataView(header.buffer, header.byteOffset).getUint32(4, true);
    // Of an RF64 file the length of the samples stands elsewhere, in `ds64`; marks behind them are beyond what is looked for.
    if (name === 'data' && length === 0xffffffff) length = size;
    if (['fmt ', 'cue ', 'LIST'].includes(name) && length <= LONGEST_CHUNK) {
      const body = await readAt(at + 8, length);
      const view = new DataView(body.buffer, body.byteOffset, body.byteLength);
      if (name === 'fmt ' && body.length >= 8) rateHz = view.getUint32(4, true);
      else if (name === 'cue ') readPoints(view, points);
      else if (name === 'LIST' && text(body, 0, 4) === 'adtl') readLabels(body, view, labels);
    }
    at += 8 + length + (length % 2);
  }
  if (rateHz === 0) return [];
  return [...points]
    .sort(([, one], [, other]) => one - other)
    .map(([id, frame], i) => ({ name: (labels.get(id) || `Marker ${i + 1}`).slice(0, 120), seconds: frame / rateHz }));
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
