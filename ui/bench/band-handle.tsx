'use client';
import { memo } from 'react';
import styled from 'styled-components';
import { bandEdgesHz } from '@/core/filters';
import { bandSummary, writeFrequency } from '@/core/formats';
import { hasGain, hasQ, isPassFilter, type Band } from '@/core/song';
import type { FrequencyScale } from '../axis';
import { useEyes } from '../eyes';
import { arrowDirection, dragEdit, stepSize } from '../gestures';
import { channelLetter, typeName } from '../signs';
import { changeBandByKey, removeBand, setBand, currentSong, useSelection, type BandChanges } from '../song';
import { BandSign, capHeight, edgeHeight } from './band-sign';
import type { BenchScale } from './bench-scale';
import { dragArm, dragCap, dragEdge, dragTwinArm, stepCap, stepEdge, stepTwinArm, stepWidth } from './handle-edits';
import { HandlePart } from './handle-part';

interface BandHandleProps {
  stripId: string;
  band: Band;
  axis: FrequencyScale;
  scale: BenchScale;
  isChosen: boolean;
  /** True for a band of another path than the one that is worked on. */
  isBeside: boolean;
}

const ARM_PIXELS = 58;
const CAP = { width: 15, height: 13 };
/** The handle of one band: a T-bar, an arm, a post or a pin. Its shape tells the kind and shows the band's extent. */
export const BandHandle = memo(function BandHandle({
  stripId,
  band,
  axis,
  scale,
  isChosen,
  isBeside,
}: BandHandleProps) {
  const name = [`Band ${band.letter}`, typeName(band.type), ...(band.channel === 'stereo' ? [] : [band.channel])].join(
    ', ',
  );
  const drag = (label: string, changes: (dx: number, dy: number) => BandChanges) => (event: React.PointerEvent) => {
    useSelection.getState().chooseBand(band.id);
    dragEdit(event, label, ({ dx, dy }) => setBand(currentSong(), stripId, band.id, changes(dx, dy)));
  };
  const press = (changes: BandChanges | null): boolean => {
    if (changes) changeBandByKey(stripId, band.id, changes, `Change band ${band.letter}`);
    return changes !== null;
  };
  const commonKey = (event: React.KeyboardEvent): boolean => {
    if (event.key === 'Delete' || event.key === 'Backspace') {
      removeBand(stripId, band.id);
      return true;
    }
    return press(
      event.key === ',' || event.key === '.' ? stepWidth(band, event.key === '.' ? 1 : -1, stepSize(event)) : null,
    );
  };
  const capKey = (event: React.KeyboardEvent): boolean => {
    const arrow = arrowDirection(event);
    return arrow ? press(stepCap(band, arrow.axis, arrow.direction, stepSize(event))) || true : commonKey(event);
  };
  const edgeKey =
    (edge: -1 | 1) =>
    (event: React.KeyboardEvent): boolean => {
      const arrow = arrowDirection(event);
      return arrow?.axis === 'x' ? press(stepEdge(band, edge, arrow.direction, stepSize(event))) : commonKey(event);
    };

  const x = Math.min(axis.width, Math.max(0, axis.x(band.frequencyHz)));
  const gainY = scale.y(band.gainDb);
  const isEyesOff = useEyes((eyes) => eyes.isOff);
  const capY = isEyesOff ? scale.y(0) : capHeight(band, scale);
  const edgeY = edgeHeight(band, scale);
  const edges = bandEdgesHz(band.frequencyHz, band.q);
  const edgeX = (edge: -1 | 1) => axis.x(edge < 0 ? edges.lowHz : edges.highHz);
  const choose = () => useSelection.getState().chooseBand(band.id);

  return (
    <Handle
      $chosen={isChosen}
      $off={!band.enabled}
      $beside={isBeside}
      data-testid={`band-${band.letter}`}
      data-band={band.id}
      onWheel={(event) => {
        // With Shift some systems turn the wheel sideways.
        const turned = event.deltaY || event.deltaX;
        if (!event.ctrlKey) press(stepWidth(band, turned < 0 ? 1 : -1, stepSize(event)));
      }}
    >
      <g className="sign">
        <BandSign band={band} axis={axis} scale={scale} />
        {isChosen && band.limits && (
          <path
            className="fence"
            d={`M${axis.x(band.limits.minHz)} ${scale.y(0) - 9}v18m0 -9H${axis.x(band.limits.maxHz)}m0 -9v18`}
          />
        )}
      </g>
      {edgeY !== null &&
        ([-1, 1] as const).map((edge) => (
          <HandlePart
            key={edge}
            label={`${name}, ${edge < 0 ? 'lower' : 'upper'} edge`}
            valueHz={Math.round(edge < 0 ? edges.lowHz : edges.highHz)}
            valueText={writeFrequency(edge < 0 ? edges.lowHz : edges.highHz)}
            hint={`Edge of band ${band.letter}: drag it or press ← → for the width`}
            cursor="ew-resize"
            onFocus={choose}
            onDown={drag('Change the width', (dx) => dragEdge(band, edge, dx, axis))}
            onKey={edgeKey(edge)}
          >
            <EdgeEnd
              x={band.type === 'notch' ? x + edge * Math.max(5, Math.abs(edgeX(edge) - x)) : edgeX(edge)}
              y={edgeY}
              edge={edge}
            />
          </HandlePart>
        ))}
      {band.type === 'twin-shelf' &&
        (['boostDb', 'cutDb'] as const).map((field) => (
          <HandlePart
            key={field}
            label={`${name}, ${field === 'boostDb' ? 'boost' : 'cut'}`}
            valueHz={band.frequencyHz}
            valueText={bandSummary(band)}
            hint={`${field === 'boostDb' ? 'Boost' : 'Cut'} of band ${band.letter}: drag it or press ↑ ↓`}
            cursor="ns-resize"
            onFocus={choose}
            onDown={drag('Change the gain', (_, dy) => dragTwinArm(band, field, dy, scale))}
            onKey={(event) => {
              const arrow = arrowDirection(event);
              if (arrow?.axis !== 'y') return commonKey(event);
              return press(stepTwinArm(band, field, arrow.direction, stepSize(event)));
            }}
          >
            <Arm
              x={x}
              y={scale.y(field === 'boostDb' ? band.boostDb : -band.cutDb)}
              side={(band.end === 'low') === (field === 'boostDb') ? -1 : 1}
            />
          </HandlePart>
        ))}
      {(band.type === 'low-shelf' || band.type === 'high-shelf') && (
        <HandlePart
          label={`${name}, arm`}
          valueHz={band.frequencyHz}
          valueText={bandSummary(band)}
          hint={`Arm of band ${band.letter}: drag it or press ↑ ↓ for the gain`}
          cursor="ns-resize"
          onFocus={choose}
          onDown={drag('Change the gain', (_, dy) => dragArm(band, dy, scale))}
          onKey={(event) => (arrowDirection(event)?.axis === 'y' ? capKey(event) : commonKey(event))}
        >
          <Arm x={x} y={gainY} side={band.type === 'low-shelf' ? -1 : 1} />
        </HandlePart>
      )}
      <HandlePart
        label={name}
        valueHz={band.frequencyHz}
        valueText={bandSummary(band)}
        hint={capHint(band)}
        part="cap"
        cursor="move"
        onFocus={choose}
        onDown={drag(`Move band ${band.letter}`, (dx, dy) => dragCap(band, { dx, dy }, axis, scale))}
        onKey={capKey}
      >
        {isPassFilter(band.type) && <rect className="grip" x={x - 7} y={0} width={14} height={scale.height} />}
        <rect className="grip" x={x - 13} y={capY - 12} width={26} height={24} />
        <rect
          className="ring"
          x={x - CAP.width / 2 - 4}
          y={capY - CAP.height / 2 - 4}
          width={CAP.width + 8}
          height={CAP.height + 8}
          rx={3}
        />
        <rect
          className="cap"
          x={x - CAP.width / 2}
          y={capY - CAP.height / 2}
          width={CAP.width}
          height={CAP.height}
          rx={2}
        />
        <text x={x} y={capY + 4}>
          {band.letter}
        </text>
        {band.channel !== 'stereo' && (
          <text className="channel" x={x + 11} y={capY + 4}>
            {channelLetter(band.channel)}
          </text>
        )}
      </HandlePart>
    </Handle>
  );
});

function capHint(band: Band): string {
  if (isPassFilter(band.type))
    return `Band ${band.letter}: drag sideways for the corner, up and down for the slope · arrow keys do the same`;
  const width = hasQ(band.type) ? ' · wheel or , . for the width' : '';
  return `Band ${band.letter}: drag for frequency${hasGain(band.type) ? ' and gain' : ''} · Shift is fine${width} · Delete removes it`;
}

function EdgeEnd({ x, y, edge }: { x: number; y: number; edge: -1 | 1 }) {
  return (
    <>
      <rect className="grip" x={edge < 0 ? x - 11 : x - 4} y={y - 11} width={15} height={22} />
      <rect className="ring" x={x - 6} y={y - 9} width={12} height={18} rx={3} />
      <line className="sign" x1={x} x2={x} y1={y - 5} y2={y + 5} />
    </>
  );
}

function Arm({ x, y, side }: { x: number; y: number; side: -1 | 1 }) {
  const end = x + side * ARM_PIXELS;
  return (
    <>
      <rect className="grip" x={Math.min(x + side * 14, end)} y={y - 8} width={ARM_PIXELS - 8} height={16} />
      <rect className="ring" x={end - 6} y={y - 9} width={12} height={18} rx={3} />
      <line className="sign" x1={x} x2={end} y1={y} y2={y} strokeDasharray="5 3" />
      <line className="sign" x1={end} x2={end} y1={y - 5} y2={y + 5} />
    </>
  );
}

const Handle = styled.g<{ $chosen: boolean; $off: boolean; $beside: boolean }>`
  color: ${({ $chosen }) => ($chosen ? 'var(--accent)' : 'var(--ink)')};
  line,
  ellipse,
  .turn {
    stroke: currentColor;
    stroke-width: 1.5;
    fill: none;
    pointer-events: none;
  }
  .cap {
    fill: var(--field);
    stroke: currentColor;
    stroke-width: 1.3;
  }
  text {
    fill: currentColor;
    font-size: 11px;
    font-weight: 600;
    text-anchor: middle;
    pointer-events: none;
    user-select: none;
  }
  ${({ $chosen, $off }) => $chosen && !$off && '.cap { fill: var(--accent); } text:not(.channel) { fill: var(--on-accent); }'}
  ${({ $off }) => $off && 'opacity: 0.55; line, .cap { stroke-dasharray: 2 2; }'}
  ${({ $beside, $chosen }) => $beside && !$chosen && 'opacity: 0.4;'}
  .fence {
    fill: none;
    stroke: currentColor;
    stroke-dasharray: 2 3;
    pointer-events: none;
  }
  .channel {
    fill: currentColor;
    font-size: 10px;
    text-anchor: start;
  }
`;
