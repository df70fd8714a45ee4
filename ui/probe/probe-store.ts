import { create } from 'zustand';
import { writeFrequency, writeGain, writeNote, writeNumber } from '@/core/formats';
import { firstEqualizer, stripChannels, type Band } from '@/core/song';
import { announce } from '../controls';
import { crosshairHz, onCrosshair } from '../crosshair';
import { arrowDirection, stepDb, stepHz, stepQ, stepSize, tidyHz } from '../gestures';
import { useListening } from '../session';
import { addBand, chosenBand, chosenStrip, pathIn, useSelection, useSongStore } from '../song';

/** The probe's boost, dB, and its width: narrow enough to find one place, wide enough to be heard. */
export const PROBE_GAIN_DB = { min: 3, max: 15, start: 6 } as const;
export const PROBE_Q = { min: 2, max: 24, start: 8 } as const;
/** From here on everything sounds odd when it is pushed: common practice. */
export const MISLEADING_GAIN_DB = 9;
const START_HZ = 400;
/** What Flip makes of a mark. */
const CUT_DB = -3;
/** More narrow cuts than this take the life out of a track: common practice. */
const MANY_CUTS = 6;
const NARROW_Q = 4;

interface ProbeStore {
  gainDb: number;
  q: number;
  /** Where the last probe stood, Hz. */
  lastHz: number;
  /** Places that were marked, Hz, by strip. */
  marks: Readonly<Record<string, readonly number[]>>;
  setGain: (gainDb: number) => void;
  setQ: (q: number) => void;
  setMarks: (stripId: string, marks: readonly number[]) => void;
}

const within = (value: number, { min, max }: { min: number; max: number }) => Math.min(max, Math.max(min, value));

export const useProbe = create<ProbeStore>((set, get) => ({
  gainDb: PROBE_GAIN_DB.start,
  q: PROBE_Q.start,
  lastHz: START_HZ,
  marks: {},
  setGain: (gainDb) => {
    set({ gainDb: within(gainDb, PROBE_GAIN_DB) });
    announce(`Probe ${writeGain(get().gainDb)}`);
    refresh();
  },
  setQ: (q) => {
    set({ q: within(q, PROBE_Q) });
    announce(`Probe Q ${writeNumber(get().q)}`);
    refresh();
  },
  setMarks: (stripId, marks) => set({ marks: { ...get().marks, [stripId]: marks } }),
}));

/** The probe that sounds takes the gain and width that are set. */
function refresh(): void {
  const { probe, setProbe } = useListening.getState();
  const { gainDb, q } = useProbe.getState();
  if (probe) setProbe({ ...probe, gainDb, q });
}

const NO_MARKS: readonly number[] = [];
const marksOf = (stripId: string) => useProbe.getState().marks[stripId] ?? NO_MARKS;
export const useMarks = (stripId: string) => useProbe((store) => store.marks[stripId] ?? NO_MARKS);

let unfollow: (() => void) | null = null;
let marksAtStart: readonly number[] = NO_MARKS;

function moveProbe(frequencyHz: number): void {
  const { probe, setProbe } = useListening.getState();
  if (!probe) return;
  useProbe.setState({ lastHz: frequencyHz });
  setProbe({ ...probe, frequencyHz });
  announce(`Probe at ${writeFrequency(frequencyHz)}, ${writeNote(frequencyHz)}`);
}

/** Starts to probe the chosen strip where the pointer stands, or where the last probe stood; it follows the pointer. */
function beginProbe(): void {
  const strip = chosenStrip();
  const { gainDb, q, lastHz } = useProbe.getState();
  marksAtStart = marksOf(strip.id);
  const frequencyHz = tidyHz(crosshairHz() ?? lastHz);
  useProbe.setState({ lastHz: frequencyHz });
  const channel = pathIn(strip, useSelection.getState().path);
  useListening.getState().setProbe({ stripId: strip.id, frequencyHz, gainDb, q, channel });
  unfollow?.();
  const endings = [
    onCrosshair((place) => place?.byPointer && moveProbe(tidyHz(place.hz))),
    // The bench that shows it is that of the chosen strip.
    useSelection.subscribe((now) => now.stripId !== strip.id && endProbe()),
  ];
  unfollow = () => endings.forEach((end) => end());
}

/** Takes the probe out of the sound. @param keepMarks false leaves all as it was */
function endProbe(keepMarks = true): void {
  const { probe, setProbe } = useListening.getState();
  unfollow?.();
  unfollow = null;
  if (!probe) return;
  if (!keepMarks) useProbe.getState().setMarks(probe.stripId, marksAtStart);
  setProbe(null);
}

/** Marks the place of the probe. */
function dropMark(): void {
  const { probe } = useListening.getState();
  if (!probe) return;
  const marks = marksOf(probe.stripId);
  if (marks.includes(probe.frequencyHz)) return;
  useProbe.getState().setMarks(
    probe.stripId,
    [...marks, probe.frequencyHz].sort((a, b) => a - b),
  );
  announce(`Marked ${writeFrequency(probe.frequencyHz)}`);
}

export function removeMark(stripId: string, hz: number): void {
  useProbe.getState().setMarks(
    stripId,
    marksOf(stripId).filter((mark) => mark !== hz),
  );
}

const isNarrowCut = (band: Band) =>
  band.enabled && (band.type === 'notch' || (band.type === 'bell' && band.gainDb < 0 && band.q >= NARROW_Q));
const warned = new Set<string>();

function warnOfManyCuts(): void {
  const equalizer = firstEqualizer(chosenStrip());
  if (!equalizer || warned.has(equalizer.id) || equalizer.bands.filter(isNarrowCut).length <= MANY_CUTS) return;
  warned.add(equalizer.id);
  useSongStore
    .getState()
    .tell('More than six narrow cuts on this track: listen to it before and after, much of its life may be gone.');
}

/** Turns a mark into a cut at the same place, half as narrow as the probe, chosen and ready to adjust; the probe ends. */
export function flipMark(hz: number): void {
  const strip = chosenStrip();
  const { q } = useProbe.getState();
  endProbe();
  removeMark(strip.id, hz);
  addBand({ type: 'bell', frequencyHz: hz, gainDb: CUT_DB, q: q / 2 }, 'Turn a mark into a cut');
  focusBand();
  warnOfManyCuts();
}

/** The mark that a key means: the one nearest to the probe, or to where it stood last. */
function nearestMark(stripId: string): number | undefined {
  const { lastHz } = useProbe.getState();
  const distance = (hz: number) => Math.abs(Math.log2(hz / lastHz));
  return [...marksOf(stripId)].sort((a, b) => distance(a) - distance(b))[0];
}

/** Flips the nearest mark; without one, the place of the probe itself. */
export function flipNearest(): void {
  const { probe } = useListening.getState();
  const hz = nearestMark(chosenStrip().id) ?? probe?.frequencyHz;
  if (hz === undefined) useSongStore.getState().tell('There is no mark to flip: hold P and press M where it rings.');
  else flipMark(hz);
}

/** The chosen band's handle takes the keyboard, so that what was made can be adjusted at once. */
function focusBand(): void {
  const { band } = chosenBand();
  requestAnimationFrame(() =>
    document.querySelector<SVGElement>(`[data-testid="band-${band?.letter}"] [data-part="cap"]`)?.focus(),
  );
}

/** Keys while the probe sounds. @returns true when the key meant something */
export function probeKey(event: KeyboardEvent): boolean {
  const { probe } = useListening.getState();
  if (!probe || event.ctrlKey || event.metaKey) return false;
  const arrow = arrowDirection(event);
  const size = stepSize(event);
  if (arrow?.axis === 'x') moveProbe(stepHz(probe.frequencyHz, arrow.direction, size));
  else if (arrow) useProbe.getState().setGain(stepDb(probe.gainDb, arrow.direction, size, PROBE_GAIN_DB));
  else if (event.key === ',' || event.key === '.')
    useProbe.getState().setQ(stepQ(probe.q, event.key === '.' ? 1 : -1, size));
  else if (event.key.toLowerCase() === 'm') dropMark();
  else if (event.key.toLowerCase() === 'f') flipNearest();
  else if (event.key === 'Escape') endProbe(false);
  else return false;
  return true;
}

/** P held. */
export const probeHold = { key: 'p', begin: beginProbe, end: () => endProbe(), onKey: probeKey };

/** For those who cannot hold a key: the probe stays until it is ended. */
export function toggleProbe(): void {
  if (useListening.getState().probe) endProbe();
  else beginProbe();
}

/** A mono track has one path; what it is named in the probe's label. */
export const probedPath = (channel: string) =>
  channel === 'stereo' || stripChannels(chosenStrip()) === 1 ? '' : ` on ${channel}`;
