/**
 * What the audio thread tells the page without a message: one shared block of memory, written after every quantum and read
 * whenever something is drawn. All numbers are 64-bit.
 */
const HEADER = 9;
const PER_TRACK = 1;
export const MOST_TRACKS = 200;
export const MOST_BUSES = 60;
/** Processors and bands whose gain at this moment is told. */
export const MOST_WATCHED = 72;

const POSITION = 0;
const PLAYING = 1;
const LOAD = 2;
const MASTER_PEAK = 3;
const TAP_POSITION = 4;
export const SONGS_TAKEN = 5;
const LATE = 6;
const HEARD = 7;
const OUTPUT_LATENCY = 8;

export class SharedState {
  private readonly values: Float64Array;

  constructor(
    readonly buffer = new SharedArrayBuffer((HEADER + MOST_TRACKS * PER_TRACK + MOST_BUSES + MOST_WATCHED) * 8),
  ) {
    this.values = new Float64Array(buffer);
  }

  /** Frame of the song that comes out next. */
  get position(): number {
    return this.values[POSITION];
  }
  /** Frame of the song that is heard. */
  get heard(): number {
    return this.values[HEARD];
  }
  /** Frames from where sound comes out of the audio thread to where it is heard: what the page was told by the browser. */
  get outputLatency(): number {
    return this.values[OUTPUT_LATENCY];
  }
  set outputLatency(frames: number) {
    this.values[OUTPUT_LATENCY] = frames;
  }
  get isPlaying(): boolean {
    return this.values[PLAYING] === 1;
  }
  /** Share of its time that the audio thread needs, 0 to 1, over about the last second. */
  get load(): number {
    return this.values[LOAD];
  }
  /** Sample peak of the mix as a meter shows it, linear. */
  get masterPeak(): number {
    return this.values[MASTER_PEAK];
  }
  /** Samples that have been written into the rings. */
  get tapPosition(): number {
    return this.values[TAP_POSITION];
  }
  /** States of the song that the audio thread has taken. */
  get songsTaken(): number {
    return this.values[SONGS_TAKEN];
  }
  /** How often samples were not there in time. */
  get lateCount(): number {
    return this.values[LATE];
  }
  /** Sample peak of a track after its fader, by its place in the song, linear. */
  trackPeak(index: number): number {
    return this.values[HEADER + index * PER_TRACK];
  }

  /** Sample peak of a bus after its fader, by its place in the compiled song, linear. */
  busPeak(index: number): number {
    return this.values[HEADER + MOST_TRACKS * PER_TRACK + index];
  }

  /** What a processor or a band that is watched takes away or adds now, dB, by its place among those that are watched. */
  gainDb(index: number): number {
    return this.values[HEADER + MOST_TRACKS * PER_TRACK + MOST_BUSES + index];
  }

  writeGain(index: number, gainDb: number): void {
    this.values[HEADER + MOST_TRACKS * PER_TRACK + MOST_BUSES + index] = gainDb;
  }

  write(
    position: number,
    heard: number,
    isPlaying: boolean,
    load: number,
    masterPeak: number,
    tapPosition: number,
  ): void {
    this.values[POSITION] = position;
    this.values[HEARD] = heard;
    this.values[PLAYING] = isPlaying ? 1 : 0;
    this.values[LOAD] = load;
    this.values[MASTER_PEAK] = masterPeak;
    this.values[TAP_POSITION] = tapPosition;
  }

  writeLate(count: number): void {
    this.values[LATE] = count;
  }

  countSong(): void {
    this.values[SONGS_TAKEN]++;
  }

  movePosition(position: number): void {
    this.values[POSITION] = position;
    this.values[HEARD] = position;
  }

  writeBus(index: number, peak: number): void {
    this.values[HEADER + MOST_TRACKS * PER_TRACK + index] = peak;
  }

  writeTrack(index: number, peak: number): void {
    this.values[HEADER + index * PER_TRACK] = peak;
  }
}
