'use client';
import { memo, useCallback, useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import { bandEdgesHz } from '@/core/filters';
import { bandSummary, writeFrequency, writeGain } from '@/core/formats';
import {
  GAIN_RANGE_DB,
  GIVES_WAY,
  givesWay,
  hasGain,
  hasQ,
  isPassFilter,
  TWIN_RANGE_DB,
  type Band,
  type BandChanges,
} from '@/core/song';
import type { FrequencyScale } from '../../kit/axis/scale';
import { isLookFrame, useFrames } from '../../kit/frames/use-frames';
import { holdPointer } from '../../kit/gestures/drag';
import { arrowDirection, rangeKeyHz, stepSize } from '../../kit/gestures/steps';
import { channelLetter } from '../../kit/signs/channels';
import { typeName } from '../../kit/signs/type-names';
import { useDesk } from '../../window/desk/desk';
import { changeBandByKey, removeBand, setBand } from '../../window/song/band-edits';
import { dragEdit } from '../../window/song/edit-drag';
import { settledSong } from '../../window/song/live-song';
import { useSelection } from '../../window/song/selection';
import { gainNow } from '../../window/sound/gains-now';
import { ARM_PIXELS } from './band-sign';
import type { BenchScale } from './bench-scale';
import {
  dragArm,
  dragCap,
  dragEdge,
  dragFar,
  dragTwinArm,
  stepCap,
  stepEdge,
  stepFar,
  stepTwinArm,
  stepWidth,
} from './handle-edits';
import { HandlePart, onAxis } from './handle-part';
import { isDeleteKey } from '../../kit/gestures/plain-key';
import { WheelSteps } from '../../kit/gestures/wheel';

interface BandHandleProps {
  stripId: string;
  band: Band;
  axis: FrequencyScale;
  scale: BenchScale;
  isChosen: boolean;
  /** True for a band of another path than the one that is worked on. */
  isBeside: boolean;
}

const EDGES = { low: -1, high: 1 } as const;

/** What can be taken hold of of one band: its cap, the ends of its bar, its arms. Where they stand is set outside React. */
export const BandHandle = memo(function BandHandle({
  stripId,
  band,
  axis,
  scale,
  isChosen,
  isBeside,
}: BandHandleProps) {
  const desk = useDesk();
  const handle = useRef<HTMLDivElement>(null);
  const [wheel] = useState(() => new WheelSteps());
  const focusAsked = useSelection((selection) => (isChosen ? selection.focusAsked : 0));
  const focusGiven = useRef(0);
  useEffect(() => {
    if (!isChosen || focusAsked === focusGiven.current) return;
    focusGiven.current = focusAsked;
    handle.current?.querySelector<HTMLElement>('[data-part="cap"]')?.focus({ preventScroll: true });
  }, [isChosen, focusAsked]);

  const name = [`Band ${band.letter}`, typeName(band.type), ...(band.channel === 'stereo' ? [] : [band.channel])].join(
    ', ',
  );
  const choose = () => useSelection.of(desk).chooseBand(band.id);
  const drag = (label: string, changes: (dx: number, dy: number) => BandChanges) => (event: React.PointerEvent) => {
    choose();
    holdPointer(event);
    dragEdit(desk, event, label, ({ dx, dy }) => setBand(settledSong(desk), stripId, band.id, changes(dx, dy), band));
  };
  const press = (changes: BandChanges | null): boolean => {
    if (changes) changeBandByKey(desk, stripId, band.id, changes, `Change band ${band.letter}`);
    return changes !== null;
  };
  const commonKey = (event: React.KeyboardEvent): boolean => {
    if (isDeleteKey(event)) {
      removeBand(desk, stripId, band.id);
      return true;
    }
    const hz = rangeKeyHz(event, band.frequencyHz);
    if (hz !== null) return press({ frequencyHz: hz });
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
  const edges = bandEdgesHz(band.frequencyHz, band.q);
  const hasEdges = band.type === 'bell' || band.type === 'notch' || band.type === 'band-pass';

  return (
    <Handle
      ref={handle}
      $chosen={isChosen}
      $off={!band.enabled}
      $beside={isBeside}
      data-testid={`band-${band.letter}`}
      data-band={band.id}
      onWheel={(event) => {
        const step = event.ctrlKey ? 0 : wheel.turn(event.nativeEvent);
        if (step !== 0) press(stepWidth(band, step < 0 ? 1 : -1, stepSize(event)));
      }}
    >
      <HandlePart
        part="cap"
        label={name}
        value={onAxis(band.frequencyHz)}
        valueText={bandSummary(band)}
        hz={band.frequencyHz}
        hint={capHint(band)}
        cursor="move"
        onFocus={choose}
        onDown={drag(`Move band ${band.letter}`, (dx, dy) => dragCap(band, { dx, dy }, axis, scale))}
        onKey={capKey}
      >
        {isPassFilter(band.type) && (
          <i className="grip" style={{ left: -12, top: 11 - scale.height, width: 24, height: scale.height }} />
        )}
        <i className="grip" style={{ left: -13, top: -12, width: 26, height: 24 }} />
        <i className="ring" style={{ left: -13, top: -12, width: 26, height: 24 }} />
        <b className="cap">{band.letter}</b>
        {band.channel !== 'stereo' && <b className="channel">{channelLetter(band.channel)}</b>}
      </HandlePart>
      {hasEdges &&
        (['low', 'high'] as const).map((side) => {
          const hz = edges[`${side}Hz`];
          return (
            <HandlePart
              key={side}
              part={`edge-${side}`}
              label={`${name}, ${side === 'low' ? 'lower' : 'upper'} edge`}
              value={onAxis(Math.round(hz))}
              valueText={writeFrequency(hz)}
              hz={hz}
              hint={`Edge of band ${band.letter}: drag it or press ← → for the width`}
              cursor="ew-resize"
              onFocus={choose}
              onDown={drag('Change the width', (dx) => dragEdge(band, EDGES[side], dx, axis))}
              onKey={edgeKey(EDGES[side])}
            >
              <i className="grip" style={{ left: side === 'low' ? -18 : -6, top: -12, width: 24, height: 24 }} />
              <i className="ring" style={{ left: -6, top: -9, width: 12, height: 18 }} />
              <i className="end sign" />
            </HandlePart>
          );
        })}
      {band.type === 'twin-shelf' &&
        (['boostDb', 'cutDb'] as const).map((field) => (
          <HandlePart
            key={field}
            part={field === 'boostDb' ? 'boost' : 'cut'}
            label={`${name}, ${field === 'boostDb' ? 'boost' : 'cut'}`}
            value={{ now: band[field], ...TWIN_RANGE_DB }}
            valueText={writeGain(field === 'boostDb' ? band.boostDb : -band.cutDb)}
            hz={band.frequencyHz}
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
            <Arm side={(band.end === 'low') === (field === 'boostDb') ? -1 : 1} />
          </HandlePart>
        ))}
      {givesWay(band) && band.givesWay && (
        <>
          <HandlePart
            part="far"
            label={`${name}, farthest`}
            value={{ now: band.givesWay.amountDb, ...GIVES_WAY.amountDb }}
            valueText={writeGain(band.givesWay.amountDb)}
            hz={band.frequencyHz}
            hint={`How far band ${band.letter} gives way: drag it or press ↑ ↓`}
            cursor="ns-resize"
            onFocus={choose}
            onDown={drag('How far it gives way', (_, dy) => dragFar(band, dy, scale))}
            onKey={(event) => {
              const arrow = arrowDirection(event);
              return arrow?.axis === 'y' ? press(stepFar(band, arrow.direction, stepSize(event))) : commonKey(event);
            }}
          >
            <i className="grip" style={{ left: -12, top: -8, width: 24, height: 16 }} />
            <i className="ring" style={{ left: -9, top: -6, width: 18, height: 12 }} />
            <i className="far sign" />
          </HandlePart>
          <GainTick bandId={band.id} restDb={band.gainDb} scale={scale} />
        </>
      )}
      {(band.type === 'low-shelf' || band.type === 'high-shelf') && (
        <HandlePart
          part="arm"
          label={`${name}, arm`}
          value={{ now: band.gainDb, ...GAIN_RANGE_DB }}
          valueText={writeGain(band.gainDb)}
          hz={band.frequencyHz}
          hint={`Arm of band ${band.letter}: drag it or press ↑ ↓ for the gain`}
          cursor="ns-resize"
          onFocus={choose}
          onDown={drag('Change the gain', (_, dy) => dragArm(band, dy, scale))}
          onKey={(event) => (arrowDirection(event)?.axis === 'y' ? capKey(event) : commonKey(event))}
        >
          <Arm side={band.type === 'low-shelf' ? -1 : 1} />
        </HandlePart>
      )}
    </Handle>
  );
});

/** Where a band that gives way stands at this moment. */
function GainTick({ bandId, restDb, scale }: { bandId: string; restDb: number; scale: BenchScale }) {
  const desk = useDesk();
  const tick = useRef<HTMLElement>(null);
  useFrames(
    useCallback(() => {
      if (!tick.current || !isLookFrame()) return;
      const top = scale.y(restDb + gainNow(desk, bandId)) - scale.y(restDb);
      tick.current.style.top = `${top.toFixed(1)}px`;
    }, [desk, bandId, restDb, scale]),
  );
  return (
    <div data-part="now" style={{ position: 'absolute', top: 0, left: 0, pointerEvents: 'none' }}>
      <i ref={tick} className="now" data-testid="gain-tick" />
    </div>
  );
}

function capHint(band: Band): string {
  if (isPassFilter(band.type))
    return `Band ${band.letter}: drag sideways for the corner, up and down for the slope · arrow keys do the same`;
  const width = hasQ(band.type) ? ' · wheel or , . for the width' : '';
  return `Band ${band.letter}: drag for frequency${hasGain(band.type) ? ' and gain' : ''} · Shift is fine${width} · Delete removes it`;
}

/** An arm: a dashed line with an end. */
function Arm({ side }: { side: -1 | 1 }) {
  const end = side * ARM_PIXELS;
  return (
    <>
      <i className="grip" style={{ left: Math.min(side * 14, end), top: -12, width: ARM_PIXELS - 14, height: 24 }} />
      <i className="ring" style={{ left: end - 6, top: -9, width: 12, height: 18 }} />
      <i className="arm sign" style={{ left: Math.min(0, end), width: ARM_PIXELS }} />
      <i className="end sign" style={{ left: end - 0.75 }} />
    </>
  );
}

const Handle = styled.div<{ $chosen: boolean; $off: boolean; $beside: boolean }>`
  position: absolute;
  top: 0;
  left: 0;
  z-index: ${({ $chosen }) => ($chosen ? 2 : 1)};
  color: ${({ $chosen }) => ($chosen ? 'var(--accent)' : 'var(--ink)')};
  .cap {
    position: absolute;
    left: -8px;
    top: -7px;
    width: 16px;
    height: 14px;
    border: 1.3px solid currentColor;
    border-radius: 2px;
    background: var(--field);
    font-size: 11px;
    font-weight: 600;
    line-height: 11.5px;
    text-align: center;
    pointer-events: none;
  }
  .channel {
    position: absolute;
    left: 11px;
    top: -6px;
    font-size: 10px;
    line-height: 12px;
    pointer-events: none;
  }
  .end {
    position: absolute;
    left: -0.75px;
    top: -5px;
    width: 1.5px;
    height: 10px;
    background: currentColor;
    pointer-events: none;
  }
  .far {
    position: absolute;
    left: -7px;
    top: -1px;
    width: 14px;
    border-top: 2px solid currentColor;
    pointer-events: none;
  }
  .now {
    position: absolute;
    left: -4px;
    width: 8px;
    height: 0;
    border-top: 3px solid var(--accent);
    margin-top: -1.5px;
  }
  .arm {
    position: absolute;
    top: -0.75px;
    border-top: 1.5px dashed currentColor;
    pointer-events: none;
  }
  ${({ $chosen, $off }) => $chosen && !$off && '.cap { border-color: var(--accent); background: var(--accent); color: var(--on-accent); }'}
  ${({ $off }) => $off && 'opacity: 0.55; .cap { border-style: dashed; }'}
  ${({ $beside, $chosen }) => $beside && !$chosen && 'opacity: 0.4;'}
`;
