import { bandEdgesHz, legalOrder } from '@/core/filters';
import { isPassFilter, type Band } from '@/core/song';
import type { FrequencyScale } from '../axis';
import { liftOf, Post } from '../signs';
import type { BenchScale } from './bench-scale';

/** How far the cap of a notch stands above the line of 0 dB, and its pin reaches below. */
const PIN = { above: 38, below: 46 };
/** The lintel of a band-pass above the line of 0 dB, the reach of a tilt's beam. */
const GATE_HEIGHT = 22;
const BEAM_PIXELS = 58;

/** Height at which the cap stands: beyond the sign's end, within the field. */
export function capHeight(band: Band, scale: BenchScale): number {
  if (isPassFilter(band.type)) return scale.height - 11;
  if (band.type === 'notch' || band.type === 'band-pass' || band.type === 'all-pass') return scale.y(0) - PIN.above;
  if (band.type === 'twin-shelf') return Math.max(9, scale.y(band.boostDb) - 12);
  if (band.type === 'tilt') return scale.y(0) - 18 - Math.abs(scale.y(0) - scale.y(band.gainDb / 2));
  const y = scale.y(band.gainDb) + (band.gainDb < 0 ? 10 : -10);
  return Math.min(scale.height - 9, Math.max(9, y));
}

/** Height of the ends that are dragged for the width; null for kinds whose width has no edges. */
export function edgeHeight(band: Band, scale: BenchScale): number | null {
  if (band.type === 'bell') return scale.y(band.gainDb / 2);
  if (band.type === 'notch') return scale.y(0);
  return band.type === 'band-pass' ? scale.y(0) - GATE_HEIGHT / 2 : null;
}

/** What is drawn of a band: a T-bar, a stem, a post, a pin, a gate, a turn, a see-saw. Its shape tells the kind. */
export function BandSign({ band, axis, scale }: { band: Band; axis: FrequencyScale; scale: BenchScale }) {
  const x = Math.min(axis.width, Math.max(0, axis.x(band.frequencyHz)));
  const zero = scale.y(0);
  const { lowHz, highHz } = bandEdgesHz(band.frequencyHz, band.q);
  const [left, right] = [axis.x(lowHz), axis.x(highHz)];
  switch (band.type) {
    case 'bell':
      return (
        <>
          <line x1={x} x2={x} y1={zero} y2={scale.y(band.gainDb)} />
          <line x1={left} x2={right} y1={scale.y(band.gainDb / 2)} y2={scale.y(band.gainDb / 2)} />
        </>
      );
    case 'low-shelf':
    case 'high-shelf':
      return <line x1={x} x2={x} y1={zero} y2={scale.y(band.gainDb)} />;
    case 'twin-shelf':
      return <line x1={x} x2={x} y1={scale.y(band.boostDb)} y2={scale.y(-band.cutDb)} />;
    case 'notch':
      return (
        <>
          <line x1={x} x2={x} y1={zero - PIN.above + 7} y2={zero + PIN.below} />
          <ellipse cx={x} cy={zero} rx={Math.max(5, (right - left) / 2)} ry={6} />
        </>
      );
    case 'band-pass':
      return (
        <>
          <line x1={left} x2={right} y1={zero - GATE_HEIGHT} y2={zero - GATE_HEIGHT} />
          <line x1={left} x2={left} y1={zero - GATE_HEIGHT} y2={zero} />
          <line x1={right} x2={right} y1={zero - GATE_HEIGHT} y2={zero} />
        </>
      );
    case 'all-pass':
      return <path className="turn" d={`M${x - 9} ${zero - 7}A11 11 0 1 1 ${x - 4} ${zero + 10}m5 -6l-5 6l6 4`} />;
    case 'tilt': {
      const rise = zero - scale.y(band.gainDb / 2);
      return (
        <>
          <line x1={x - BEAM_PIXELS} x2={x + BEAM_PIXELS} y1={zero + rise} y2={zero - rise} />
          <path className="turn" d={`M${x} ${zero}l-7 11h14z`} />
        </>
      );
    }
    case 'high-pass':
    case 'low-pass':
      return (
        <g transform={`translate(${x} 9)`}>
          <Post
            type={band.type}
            order={legalOrder(band.family, band.order)}
            height={scale.height - 28}
            barb={13}
            lift={liftOf(band)}
          />
        </g>
      );
  }
}
