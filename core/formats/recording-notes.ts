/** A place in a recording that its file names. */
export interface Marker {
  name: string;
  seconds: number;
}

/** What the file of a recording says of itself beside its sound. */
export interface RecordingNotes {
  /** In their order in time. */
  markers: Marker[];
  /** Where its first sample stands, seconds from midnight or from wherever the recorder counts; null where nothing is said. */
  timeReferenceSeconds: number | null;
  /** Names of its channels, in their order; empty where they have none. */
  channelNames: string[];
}

export const NO_NOTES: RecordingNotes = { markers: [], timeReferenceSeconds: null, channelNames: [] };

/** Reads some bytes of a file; fewer where it ends. */
export type ReadAt = (from: number, length: number) => Promise<Uint8Array>;

export const MOST_MARKERS = 1000;
/** Chunks of marks are small: a longer one is not read. */
export const LONGEST_CHUNK = 1 << 20;
/** So many chunks are looked through. */
export const MOST_CHUNKS = 500;

export const asciiText = (bytes: Uint8Array, from: number, length: number) =>
  String.fromCharCode(...bytes.subarray(from, from + length));

/** Frames that have names, as markers: in their order in time, numbered where they have none. */
export const markersAt = (points: readonly { frame: number; name: string }[], rateHz: number): Marker[] =>
  [...points]
    .sort((a, b) => a.frame - b.frame)
    .map(({ frame, name }, i) => ({ name: (name || `Marker ${i + 1}`).slice(0, 120), seconds: frame / rateHz }));
