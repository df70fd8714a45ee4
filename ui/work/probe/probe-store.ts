import { Desk, deskStore } from '../../window/desk/desk';
import { writeFrequency, writeGain, writeNote, writeNumber } from '@/core/formats';
import type { Band } from '@/core/song';
import { announce } from '../../kit/controls/announcer';
import { crosshairHz, onCrosshair } from '../../window/crosshair/crosshair-store';
import { arrowDirection, stepDb, stepHz, stepQ, stepSize, tidyHz } from '../../kit/gestures/steps';
import { useListening } from '../../window/sound/listening';
import { addBand } from '../../window/song/band-edits';
import { chosenBand, chosenStrip, equalizerOnBench, pathIn, useSelection } from '../../window/song/selection';
import { tell } from '../../window/notices/notices';
import type { Hold } from '../../window/commands/holds';
import { plainKey } from '../../kit/gestures/plain-key';

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
  /** The marks as they were when the probe began. */
  marksAtStart: readonly number[];
  /** Equalizers of which it was said that their narrow cuts are many. */
  warned: readonly string[];
  /** Ends what the probe follows: the pointer, the choice. */
  unfollow: () => void;
}

const NO_MARKS: readonly number[] = [];
const within = (value: number, { min, max }: { min: number; max: number }) => Math.min(max, Math.max(min, value));

export const useProbe = deskStore<ProbeStore>((desk) => (set, get) => ({
  gainDb: PROBE_GAIN_DB.start,
  q: PROBE_Q.start,
  lastHz: START_HZ,
  marks: {},
  setGain: (gainDb) => {
    set({ gainDb: within(gainDb, PROBE_GAIN_DB) });
    announce(`Probe ${writeGain(get().gainDb)}`);
    refresh(desk);
  },
  setQ: (q) => {
    set({ q: within(q, PROBE_Q) });
    announce(`Probe Q ${writeNumber(get().q)}`);
    refresh(desk);
  },
  setMarks: (stripId, marks) => set({ marks: { ...get().marks, [stripId]: marks } }),
  marksAtStart: NO_MARKS,
  warned: [],
  unfollow: () => undefined,
}));

/** The probe that sounds takes the gain and width that are set. */
function refresh(desk: Desk): void {
  const { probe, setProbe } = useListening.of(desk);
  const { gainDb, q } = useProbe.of(desk);
  if (probe) setProbe({ ...probe, gainDb, q });
}

const marksOf = (desk: Desk, stripId: string) => useProbe.of(desk).marks[stripId] ?? NO_MARKS;
export const useMarks = (stripId: string) => useProbe((store) => store.marks[stripId] ?? NO_MARKS);

function moveProbe(desk: Desk, frequencyHz: number): void {
  const { probe, setProbe } = useListening.of(desk);
  if (!probe) return;
  useProbe.api(desk).setState({ lastHz: frequencyHz });
  setProbe({ ...probe, frequencyHz });
  announce(`Probe at ${writeFrequency(frequencyHz)}, ${writeNote(frequencyHz)}`);
}

/** Starts to probe the chosen strip where the pointer stands, or where the last probe stood; it follows the pointer. */
function beginProbe(desk: Desk): void {
  const strip = chosenStrip(desk);
  const { gainDb, q, lastHz, unfollow } = useProbe.of(desk);
  const frequencyHz = tidyHz(crosshairHz(desk) ?? lastHz);
  const { path, processorId } = useSelection.of(desk);
  const channel = pathIn(strip, equalizerOnBench(strip, processorId)?.id, path);
  useListening.of(desk).setProbe({ stripId: strip.id, frequencyHz, gainDb, q, channel });
  unfollow();
  const endings = [
    onCrosshair(desk, (place) => place?.byPointer && moveProbe(desk, tidyHz(place.hz))),
    // The bench that shows it is that of the chosen strip.
    useSelection.api(desk).subscribe((now) => now.stripId !== strip.id && endProbe(desk)),
  ];
  useProbe.api(desk).setState({
    lastHz: frequencyHz,
    marksAtStart: marksOf(desk, strip.id),
    unfollow: () => endings.forEach((end) => end()),
  });
}

/** Takes the probe out of the sound. @param keepMarks false leaves all as it was */
function endProbe(desk: Desk, keepMarks = true): void {
  const { probe, setProbe } = useListening.of(desk);
  const { unfollow, setMarks, marksAtStart } = useProbe.of(desk);
  unfollow();
  if (!probe) return;
  if (!keepMarks) setMarks(probe.stripId, marksAtStart);
  setProbe(null);
}

/** Marks the place of the probe. */
function dropMark(desk: Desk): void {
  const { probe } = useListening.of(desk);
  if (!probe) return;
  const marks = marksOf(desk, probe.stripId);
  if (marks.includes(probe.frequencyHz)) return;
  useProbe.of(desk).setMarks(
    probe.stripId,
    [...marks, probe.frequencyHz].sort((a, b) => a - b),
  );
  announce(`Marked ${writeFrequency(probe.frequencyHz)}`);
}

export function removeMark(desk: Desk, stripId: string, hz: number): void {
  useProbe.of(desk).setMarks(
    stripId,
    marksOf(desk, stripId).filter((mark) => mark !== hz),
  );
}

const isNarrowCut = (band: Band) =>
  band.enabled && (band.type === 'notch' || (band.type === 'bell' && band.gainDb < 0 && band.q >= NARROW_Q));

function warnOfManyCuts(desk: Desk): void {
  const { equalizer } = chosenBand(desk);
  const { warned } = useProbe.of(desk);
  if (!equalizer || warned.includes(equalizer.id) || equalizer.bands.filter(isNarrowCut).length <= MANY_CUTS) return;
  useProbe.api(desk).setState({ warned: [...warned, equalizer.id] });
  tell(desk, 'More than six narrow cuts on this track: listen to it before and after, much of its life may be gone.');
}

/** Turns a mark into a cut at the same place, half as narrow as the probe, chosen and ready to adjust; the probe ends. */
export function flipMark(desk: Desk, hz: number): void {
  const strip = chosenStrip(desk);
  const { q } = useProbe.of(desk);
  endProbe(desk);
  removeMark(desk, strip.id, hz);
  addBand(desk, { type: 'bell', frequencyHz: hz, gainDb: CUT_DB, q: q / 2 }, 'Turn a mark into a cut');
  warnOfManyCuts(desk);
}

/** The mark that a key means: the one nearest to the probe, or to where it stood last. */
function nearestMark(desk: Desk, stripId: string): number | undefined {
  const { lastHz } = useProbe.of(desk);
  const distance = (hz: number) => Math.abs(Math.log2(hz / lastHz));
  return [...marksOf(desk, stripId)].sort((a, b) => distance(a) - distance(b))[0];
}

/** Flips the nearest mark; without one, the place of the probe itself. */
export function flipNearest(desk: Desk): void {
  const { probe } = useListening.of(desk);
  const hz = nearestMark(desk, chosenStrip(desk).id) ?? probe?.frequencyHz;
  if (hz === undefined) tell(desk, 'There is no mark to flip: hold P and press M where it rings.');
  else flipMark(desk, hz);
}

/** Keys while the probe sounds. @returns true when the key meant something */
export function probeKey(desk: Desk, event: KeyboardEvent): boolean {
  const { probe } = useListening.of(desk);
  if (!probe || event.ctrlKey || event.metaKey) return false;
  const arrow = arrowDirection(event);
  const size = stepSize(event);
  if (arrow?.axis === 'x') moveProbe(desk, stepHz(probe.frequencyHz, arrow.direction, size));
  else if (arrow) useProbe.of(desk).setGain(stepDb(probe.gainDb, arrow.direction, size, PROBE_GAIN_DB));
  else if (event.key === ',' || event.key === '.')
    useProbe.of(desk).setQ(stepQ(probe.q, event.key === '.' ? 1 : -1, size));
  else if (plainKey(event) === 'm') dropMark(desk);
  else if (plainKey(event) === 'f') flipNearest(desk);
  else if (event.key === 'Escape') endProbe(desk, false);
  else return false;
  return true;
}

/** P held. */
export const probeHold = (desk: Desk): Hold => ({
  key: 'p',
  begin: () => beginProbe(desk),
  end: () => endProbe(desk),
  onKey: (event) => probeKey(desk, event),
});

/** For those who cannot hold a key: the probe stays until it is ended. */
export function toggleProbe(desk: Desk): void {
  if (useListening.of(desk).probe) endProbe(desk);
  else beginProbe(desk);
}
