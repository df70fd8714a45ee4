import { type Desk, deskStore } from '../../window/desk/desk';
import { bandEdgesHz } from '@/core/filters';
import { writeFrequency } from '@/core/formats';
import { FREQUENCY_RANGE_HZ, type Band } from '@/core/song';
import { AXIS_HIGH_HZ, AXIS_LOW_HZ } from '../../kit/axis/scale';
import { announce } from '../../kit/controls/announcer';
import { arrowDirection, stepHz, stepSize, tidyHz, type StepSize } from '../../kit/gestures/steps';
import { useListening } from '../../window/sound/listening';
import type { Hold } from '../../window/commands/holds';
import { chosenBand } from '../../window/song/selection';

/** Earshot: only a range of a track, or of the mix, is heard for as long as E is held. */
interface EarshotStore {
  /** True while a sweep over a field sets the range. */
  isArmed: boolean;
  /** True where it stays when E is let go. */
  stays: boolean;
}

export const useEarshot = deskStore<EarshotStore>(() => () => ({ isArmed: false, stays: false }));

/** No narrower than a sixth of an octave. */
const NARROWEST = 2 ** (1 / 6);

/** Sets what is heard. The edges may come in either order. */
export function setRange(desk: Desk, stripId: string, oneHz: number, otherHz: number): void {
  const middle = Math.sqrt(oneHz * otherHz);
  const half = Math.max(Math.sqrt(NARROWEST), Math.sqrt(Math.max(oneHz, otherHz) / Math.min(oneHz, otherHz)));
  const [lowHz, highHz] = [tidyHz(middle / half), tidyHz(middle * half)];
  useListening.of(desk).setEarshot({ stripId, lowHz, highHz });
  announce(`Only ${writeFrequency(lowHz)} to ${writeFrequency(highHz)}`);
}

/** The range that a band works on. */
export function bandExtent(band: Band): { lowHz: number; highHz: number } {
  const { frequencyHz, q } = band;
  switch (band.type) {
    case 'low-shelf':
    case 'high-pass':
      return { lowHz: AXIS_LOW_HZ, highHz: frequencyHz };
    case 'high-shelf':
    case 'low-pass':
      return { lowHz: frequencyHz, highHz: AXIS_HIGH_HZ };
    case 'twin-shelf':
      return band.end === 'low'
        ? { lowHz: AXIS_LOW_HZ, highHz: frequencyHz * 4 }
        : { lowHz: frequencyHz / 4, highHz: AXIS_HIGH_HZ };
    case 'tilt':
      return { lowHz: frequencyHz / 2, highHz: frequencyHz * 2 };
    default:
      return bandEdgesHz(frequencyHz, q);
  }
}

function hearBand(desk: Desk, band: Band, stripId: string): void {
  const { lowHz, highHz } = bandExtent(band);
  setRange(desk, stripId, Math.max(AXIS_LOW_HZ, lowHz), Math.min(AXIS_HIGH_HZ, highHz));
}

const isOnBand = () => Boolean(document.activeElement?.closest('[data-band]'));

/** E goes down: on a focused band, that band's range is heard at once; elsewhere a sweep over a field says which. */
function begin(desk: Desk): void {
  useEarshot.api(desk).setState({ isArmed: true });
  const { strip, band } = chosenBand(desk);
  if (band && isOnBand()) hearBand(desk, band, strip.id);
}

export function endEarshot(desk: Desk): void {
  useEarshot.api(desk).setState({ isArmed: false, stays: false });
  useListening.of(desk).setEarshot(null);
}

/** Moves an edge. */
export function moveEdge(desk: Desk, edge: 'low' | 'high', hz: number): void {
  const { earshot } = useListening.of(desk);
  if (!earshot) return;
  const lowHz = edge === 'low' ? Math.min(hz, earshot.highHz / NARROWEST) : earshot.lowHz;
  const highHz = edge === 'high' ? Math.max(hz, earshot.lowHz * NARROWEST) : earshot.highHz;
  setRange(desk, earshot.stripId, lowHz, highHz);
}

export function stepEdge(desk: Desk, edge: 'low' | 'high', direction: 1 | -1, size: StepSize): void {
  const { earshot } = useListening.of(desk);
  if (earshot) moveEdge(desk, edge, stepHz(edge === 'low' ? earshot.lowHz : earshot.highHz, direction, size));
}

/** Keys while a range is heard alone: ← → move it, ↑ widens it, ↓ narrows it, Escape ends it. @returns true when the key meant something */
export function earshotKey(desk: Desk, event: KeyboardEvent): boolean {
  const { earshot } = useListening.of(desk);
  if (!earshot || event.ctrlKey || event.metaKey) return false;
  if (event.key === 'Escape') {
    endEarshot(desk);
    return true;
  }
  const arrow = arrowDirection(event);
  if (!arrow) return false;
  const size = stepSize(event);
  const { direction } = arrow;
  const low = stepHz(earshot.lowHz, arrow.axis === 'x' ? direction : direction === 1 ? -1 : 1, size);
  const high = stepHz(earshot.highHz, direction, size);
  if (high / low >= NARROWEST && high <= FREQUENCY_RANGE_HZ.max) setRange(desk, earshot.stripId, low, high);
  return true;
}

/** E held. */
export const earshotHold = (desk: Desk): Hold => ({
  key: 'e',
  begin: () => begin(desk),
  end: () => {
    if (!useEarshot.of(desk).stays) endEarshot(desk);
    useEarshot.api(desk).setState({ isArmed: useEarshot.of(desk).stays });
  },
  onKey: (event) => earshotKey(desk, event),
});

/** For those who cannot hold a key: the chosen band's range, or the middle of the chosen track, until it is ended. */
export function toggleEarshot(desk: Desk): void {
  if (useEarshot.of(desk).stays) {
    endEarshot(desk);
    return;
  }
  useEarshot.api(desk).setState({ stays: true, isArmed: true });
  const { strip, band } = chosenBand(desk);
  if (band) hearBand(desk, band, strip.id);
  else setRange(desk, strip.id, 500, 2000);
}
