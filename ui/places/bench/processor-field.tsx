'use client';
import { useCallback, useEffect, useMemo, useRef } from 'react';
import styled from 'styled-components';
import { writeFigure, writeFrequency, writeTime } from '@/core/formats';
import { STEPS_PER_SECOND } from '@/core/measure';
import { feedingPart, type Observed } from '@/core/mix';
import type { ProcessorSettings } from '@/core/processors';
import { findStrip, FIGURES, type Reverb } from '@/core/song';
import { useAxis } from '../../kit/axis/axis-context';
import { useCanvas } from '../../kit/axis/canvas';
import { CanvasField } from '../../kit/axis/canvas-field';
import { useSize } from '../../kit/axis/use-size';
import { TextButton } from '../../kit/controls/button';
import { useFrames } from '../../kit/frames/use-frames';
import { arrowDirection, stepFigure, stepHz, stepSize, tidyFigure, tidyHz } from '../../kit/gestures/steps';
import type { Tokens } from '../../kit/theme/tokens';
import { useDesk } from '../../window/desk/desk';
import { dragEdit } from '../../window/song/edit-drag';
import { changedStrips } from '../../window/song/changed-strips';
import { liveSong, songOf } from '../../window/song/live-song';
import { changeProcessorByKey, setProcessor } from '../../window/song/processor-edits';
import { stripName, useChosenStrip } from '../../window/song/selection';
import { useSong } from '../../window/song/song-store';
import { useAnalyses } from '../../window/sound/analyses';
import { positionSeconds } from '../../window/sound/audio-state';
import { commonStretch } from '../../window/sound/judge-pairs';
import { useSession } from '../../window/sound/session-store';
import { ChainLine } from '../../work/chain/chain-line';
import { changeOf, figuresOf, valueOf } from '../../work/chain/figure-field';
import { followProcessor, observedSpan, useObserved, type Span } from '../../work/chain/observed-store';
import { clipperScale, drawClipper } from './draw-clipper';
import { drawLevels, levelAtY, levelsPlace, levelY } from './draw-levels';
import { decayScale, drawEcho, drawReverb } from './draw-room';

/** The processor on the bench as a picture, drawn like everything else; what it does most is dragged right there. */
export function ProcessorField({ processor }: { processor: ProcessorSettings }) {
  const desk = useDesk();
  const axis = useAxis();
  const strip = useChosenStrip();
  const field = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const { height } = useSize(field);
  const rateHz = useSong((song) => song.rateHz);
  const { observed, problem } = useObserved();
  useEffect(() => followProcessor(desk), [desk]);
  const { kind, id } = processor;
  const stripId = strip.id;
  const draw = useCallback(
    (context: CanvasRenderingContext2D, width: number, tall: number, tokens: Tokens) => {
      // In the middle of a drag React is behind the song.
      const song = songOf(desk);
      const strip = findStrip(song, stripId);
      const live = strip?.chain.find((other) => other.id === id);
      if (!live || live.kind === 'equalizer') return;
      const { observed } = useObserved.of(desk);
      const own = observed?.processorId === id ? observed : null;
      const ink = strip && 'ink' in strip ? tokens.inks[strip.ink] : tokens.soft;
      if (live.kind === 'reverb') drawReverb(context, axis, tall, { reverb: live, rateHz, ink }, tokens);
      else if (live.kind === 'echo') drawEcho(context, width, tall, { echo: live, ink }, tokens);
      else if (live.kind === 'clipper')
        drawClipper(context, width, tall, { clipper: live, observed: own, ink }, tokens);
      else {
        const place = levelsPlace(width, tall, live.kind);
        drawLevels(
          context,
          place,
          { processor: live, observed: own, span: own?.span ?? observedSpan(song, positionSeconds(desk)), ink },
          tokens,
        );
      }
    },
    [desk, axis, stripId, id, rateHz],
  );
  const redraw = useCanvas(canvas, axis.width, height, draw);
  useEffect(() => {
    const endings = [
      liveSong(desk).follow((now, before) => changedStrips(now, before).has(stripId) && redraw()),
      useObserved.api(desk).subscribe(redraw),
    ];
    return () => endings.forEach((end) => end());
  }, [desk, stripId, redraw]);
  const isObserved = observed?.processorId === id;
  return (
    <Frame>
      <ChainLine />
      <Field
        ref={field}
        data-testid="processor-field"
        data-observed={isObserved || undefined}
        role="group"
        aria-label={`Picture of the ${kind} of ${stripName(strip)}${isObserved ? `, ${writeTime(observed.span.from)} to ${writeTime(observed.span.to)}` : ''}`}
      >
        <canvas ref={canvas} aria-hidden />
        {height > 0 && <Handles stripId={stripId} processor={processor} height={height} />}
        {isObserved && isSilent(observed) && <SilentNote stripId={stripId} span={observed.span} />}
        {problem && kind !== 'reverb' && kind !== 'echo' && (
          <Note role="status">The sound could not be looked at: {problem}</Note>
        )}
      </Field>
    </Frame>
  );
}

/** Nothing is louder than this, linear: −100 dBFS. */
const SILENT_PEAK = 1e-5;
const isSilent = ({ before }: Observed) => before.peaks.every((peak) => peak < SILENT_PEAK);

/** Says that nothing sounds where it is looked, and leads to where something does. */
function SilentNote({ stripId, span: { from, to } }: { stripId: string; span: Span }) {
  const desk = useDesk();
  const isLooped = useSong((song) => song.loop?.enabled ?? false);
  const goThere = () => {
    const song = songOf(desk);
    const { tracks } = feedingPart(song, [stripId]);
    const { from: step } = commonStretch(song, tracks, useAnalyses.of(desk).levels);
    useSession.of(desk).seek(step / STEPS_PER_SECOND);
  };
  return (
    <Note role="status">
      Silent from {writeTime(from)} to {writeTime(to)}.{' '}
      {!isLooped && <TextButton onPress={goThere}>Go to where it sounds</TextButton>}
    </Note>
  );
}

interface HandlesProps {
  stripId: string;
  processor: ProcessorSettings;
  height: number;
}

function Handles({ stripId, processor, height }: HandlesProps) {
  const axis = useAxis();
  const place = useMemo(() => levelsPlace(axis.width, height, processor.kind), [axis.width, height, processor.kind]);
  switch (processor.kind) {
    case 'reverb':
      return <DecayHandles stripId={stripId} reverb={processor} height={height} />;
    case 'echo':
      return null;
    case 'clipper': {
      const { y, dbAtY } = clipperScale(axis.width, height);
      return (
        <LevelLine stripId={stripId} processor={processor} field="ceilingDb" width={axis.width} y={y} dbAtY={dbAtY} />
      );
    }
    default:
      return (
        <>
          <LevelLine
            stripId={stripId}
            processor={processor}
            field={processor.kind === 'limiter' ? 'ceilingDb' : 'thresholdDb'}
            width={place.timeWidth}
            y={(db) => levelY(place, db)}
            dbAtY={(y) => levelAtY(place, y)}
          />
          <Playhead width={place.timeWidth} />
        </>
      );
  }
}

interface LevelLineProps {
  stripId: string;
  processor: ProcessorSettings;
  field: string;
  width: number;
  y: (db: number) => number;
  dbAtY: (y: number) => number;
}

/** A threshold or a ceiling, as a line that is dragged up and down. */
function LevelLine({ stripId, processor, field, width, y, dbAtY }: LevelLineProps) {
  const desk = useDesk();
  const figure = figuresOf(processor)[field];
  const value = valueOf(processor, field);
  const set = (db: number) => changeOf(field, tidyFigure(db, figure));
  return (
    <Grip
      role="slider"
      tabIndex={0}
      aria-label={figure.label}
      aria-orientation="vertical"
      aria-valuemin={figure.min}
      aria-valuemax={figure.max}
      aria-valuenow={value}
      aria-valuetext={writeFigure(value, figure)}
      style={{ width, transform: `translateY(${y(value) - 8}px)` }}
      data-hint="Drag it up and down · ↑ ↓ move it, Shift finely, Alt coarsely"
      onPointerDown={(event) => {
        const from = y(value);
        dragEdit(desk, event, figure.label, ({ dy }) => setProcessor(stripId, processor, set(dbAtY(from + dy))));
      }}
      onKeyDown={(event) => {
        const arrow = arrowDirection(event);
        if (event.ctrlKey || event.metaKey || arrow?.axis !== 'y') return;
        event.preventDefault();
        event.stopPropagation();
        const changes = changeOf(field, stepFigure(value, arrow.direction, stepSize(event), figure));
        changeProcessorByKey(desk, stripId, processor, changes, figure.label);
      }}
    >
      <span>
        {figure.label} {writeFigure(value, figure)}
      </span>
    </Grip>
  );
}

/** Where it plays, over the levels that are shown. */
function Playhead({ width }: { width: number }) {
  const desk = useDesk();
  const line = useRef<HTMLDivElement>(null);
  useFrames(
    useCallback(() => {
      const span = useObserved.of(desk).observed?.span;
      if (!line.current || !span) return;
      const share = (positionSeconds(desk) - span.from) / (span.to - span.from);
      const isThere = share >= 0 && share <= 1;
      line.current.style.visibility = isThere ? '' : 'hidden';
      line.current.style.transform = `translateX(${share * width}px)`;
    }, [desk, width]),
  );
  return <PlayLine ref={line} aria-hidden />;
}

const { decaySeconds: DECAY, lowRatio: LOW, highRatio: HIGH } = FIGURES.reverb;

/** Three places of the line of a reverb's decay: of the lows, the middle, the highs. */
function DecayHandles({ stripId, reverb, height }: { stripId: string; reverb: Reverb; height: number }) {
  const desk = useDesk();
  const axis = useAxis();
  const { y, seconds } = decayScale(height);
  const handles = [
    {
      label: 'Decay of the lows',
      hz: reverb.lowHz,
      decay: reverb.decaySeconds * reverb.lowRatio,
      text: `× ${reverb.lowRatio} below ${writeFrequency(reverb.lowHz)}`,
      by: (decay: number, hz: number) => ({
        lowRatio: tidyFigure(decay / reverb.decaySeconds, LOW),
        lowHz: tidyFigure(hz, FIGURES.reverb.lowHz),
      }),
    },
    {
      label: 'Decay',
      hz: Math.sqrt(reverb.lowHz * reverb.highHz),
      decay: reverb.decaySeconds,
      text: writeFigure(reverb.decaySeconds, DECAY),
      by: (decay: number) => ({ decaySeconds: tidyFigure(decay, DECAY) }),
    },
    {
      label: 'Decay of the highs',
      hz: reverb.highHz,
      decay: reverb.decaySeconds * reverb.highRatio,
      text: `× ${reverb.highRatio} above ${writeFrequency(reverb.highHz)}`,
      by: (decay: number, hz: number) => ({
        highRatio: tidyFigure(decay / reverb.decaySeconds, HIGH),
        highHz: tidyFigure(hz, FIGURES.reverb.highHz),
      }),
    },
  ];
  return handles.map(({ label, hz, decay, text, by }) => (
    <Dot
      key={label}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={0.01}
      aria-valuemax={DECAY.max}
      aria-valuenow={decay}
      aria-valuetext={text}
      style={{ transform: `translate(${axis.x(hz) - 12}px, ${y(decay) - 12}px)` }}
      data-hint="Drag it up and down for how long, sideways for where · arrows do the same"
      onPointerDown={(event) => {
        const [fromX, fromY] = [axis.x(hz), y(decay)];
        dragEdit(desk, event, label, ({ dx, dy }) =>
          setProcessor(stripId, reverb, by(seconds(fromY + dy), tidyHz(axis.hz(fromX + dx)))),
        );
      }}
      onKeyDown={(event) => {
        const arrow = arrowDirection(event);
        if (event.ctrlKey || event.metaKey || !arrow) return;
        event.preventDefault();
        event.stopPropagation();
        const size = stepSize(event);
        const changes =
          arrow.axis === 'x'
            ? by(decay, stepHz(hz, arrow.direction, size))
            : by(stepFigure(decay, arrow.direction, size, { ...DECAY, min: 0.01, max: 100 }), hz);
        changeProcessorByKey(desk, stripId, reverb, changes, label);
      }}
    >
      <i />
      <span data-sound>{text}</span>
    </Dot>
  ));
}

const Frame = styled.div`
  display: grid;
  grid-template-rows: 28px minmax(0, 1fr);
  min-height: 0;
`;
const Field = styled(CanvasField)`
  background: var(--field);
`;
const Grip = styled.div`
  position: absolute;
  top: 0;
  left: 0;
  height: 16px;
  cursor: ns-resize;
  &::before {
    content: '';
    position: absolute;
    inset: 7.5px 0 auto;
    border-top: 1.5px solid var(--accent);
  }
  > span {
    position: absolute;
    right: 8px;
    bottom: 9px;
    padding: 0 4px;
    background: var(--field);
    color: var(--accent);
    font-size: 12px;
    font-weight: 600;
    white-space: nowrap;
  }
`;
const Dot = styled.div`
  position: absolute;
  top: 0;
  left: 0;
  width: 24px;
  height: 24px;
  cursor: move;
  > i {
    position: absolute;
    inset: 7px;
    border: 2px solid var(--accent);
    background: var(--field);
    transform: rotate(45deg);
  }
  > span {
    position: absolute;
    left: 22px;
    bottom: 14px;
    padding: 0 3px;
    background: var(--field);
    color: var(--soft);
    font-size: 12px;
    white-space: nowrap;
    pointer-events: none;
  }
`;
const PlayLine = styled.div`
  position: absolute;
  top: 0;
  bottom: 18px;
  left: 0;
  border-left: 1px solid var(--accent);
  pointer-events: none;
`;
const Note = styled.p`
  position: absolute;
  top: 8px;
  left: 60px;
  color: var(--accent);
`;
