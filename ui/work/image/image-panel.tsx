'use client';
import { useCallback, useRef } from 'react';
import styled from 'styled-components';
import { writeGain, writeNumber } from '@/core/formats';
import { MASTER_ID } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { useCanvas } from '../../kit/axis/canvas';
import { Button, TextButton } from '../../kit/controls/button';
import { Choice } from '../../kit/controls/choice';
import { PanelBody, PanelLine } from '../../kit/controls/panel';
import { forgetMeters, useMeters } from '../../window/sound/meters';
import { useMeasuredParts, useMeasuredPart } from '../../window/sound/measured-parts';
import { stripName, useSelection, useStripFacts } from '../../window/song/selection';
import { useSong } from '../../window/song/song-store';
import { SANS, type Tokens } from '../../kit/theme/tokens';
import { StereoChart } from './stereo-chart';

const WIDTH = 232;
const HEIGHT = 150;
const SUBJECTS = [
  { id: 'mix', name: 'the mix' },
  { id: 'chosen', name: 'the chosen track' },
] as const;

const decibels = (value: number, unit: string) =>
  Number.isFinite(value) && value > -149 ? `${writeNumber(value)} ${unit}` : 'silent';

/** What stands across and what along: a sound in the middle is a line upright, one that is turned on a side lies flat. */
export function imagePlace(left: number, right: number): { across: number; along: number } {
  return { across: (right - left) / Math.SQRT2, along: (left + right) / Math.SQRT2 };
}

/** The stereo picture and the standard meters, live and over the loop. */
export function ImagePanel() {
  const desk = useDesk();
  const { subject, setSubject } = useMeters();
  return (
    <PanelBody aria-label="Image">
      <h2>Image</h2>
      <PanelLine>
        <span>Of</span>
        <Choice label="Measured" value={subject} options={SUBJECTS} width={150} onChange={setSubject} />
        <TextButton
          data-hint="Integrated loudness, range and true peak are counted from now on"
          onPress={() => forgetMeters(desk)}
        >
          Begin anew
        </TextButton>
      </PanelLine>
      <div data-sound>
        <Goniometer />
        <LiveFigures />
      </div>
      <OverLoop />
    </PanelBody>
  );
}

/** The last moments of left against right. */
function Goniometer() {
  const canvas = useRef<HTMLCanvasElement>(null);
  const figures = useMeters((meters) => meters.figures);
  const draw = useCallback(
    (context: CanvasRenderingContext2D, width: number, height: number, tokens: Tokens) => {
      const [x0, y0, reach] = [width / 2, height - 12, height - 22];
      context.strokeStyle = tokens.rule;
      context.lineWidth = 1;
      context.beginPath();
      context.arc(x0, y0, reach, Math.PI, 2 * Math.PI);
      context.moveTo(x0, y0);
      context.lineTo(x0, y0 - reach);
      for (const side of [-1, 1]) {
        context.moveTo(x0, y0);
        context.lineTo(x0 + (side * reach) / Math.SQRT2, y0 - reach / Math.SQRT2);
      }
      context.moveTo(x0 - reach, y0);
      context.lineTo(x0 + reach, y0);
      context.stroke();
      context.fillStyle = tokens.soft;
      context.font = `400 11px ${SANS}`;
      context.textRendering = 'geometricPrecision';
      const labelY = y0 - reach / Math.SQRT2 - 8;
      context.textAlign = 'left';
      context.fillText('left', 0, labelY);
      context.textAlign = 'right';
      context.fillText('right', width, labelY);
      if (!figures) return;
      const { points } = figures;
      let most = 1e-4;
      for (const value of points) most = Math.max(most, Math.abs(value));
      context.fillStyle = tokens.ink;
      context.globalAlpha = 0.5;
      for (let n = 0; n < points.length; n += 2) {
        const { across, along } = imagePlace(points[n] / most, points[n + 1] / most);
        // What swings down is drawn up: the sign of a moment says nothing about its place.
        const upward = along < 0 ? -1 : 1;
        const size = Math.hypot(across, along);
        // Soft moments are drawn larger than they are, so that they show.
        const scale = size > 0 ? (reach * Math.sqrt(size / Math.SQRT2)) / size : 0;
        context.fillRect(x0 + upward * across * scale - 0.6, y0 - Math.abs(along) * scale - 0.6, 1.3, 1.3);
      }
      context.globalAlpha = 1;
    },
    [figures],
  );
  useCanvas(canvas, WIDTH, HEIGHT, draw);
  return <canvas ref={canvas} style={{ width: WIDTH, height: HEIGHT }} aria-label="Stereo picture" role="img" />;
}

function LiveFigures() {
  const figures = useMeters((meters) => meters.figures);
  if (!figures) return <p>Play to see it.</p>;
  const { momentaryLufs, shortTermLufs, integratedLufs, rangeLu, truePeakDbtp, crestDb, correlation } = figures;
  return (
    <>
      <Scale aria-hidden>
        <i style={{ left: `${50 + 50 * (correlation ?? 0)}%` }} />
      </Scale>
      <Figures aria-label="Live meters">
        <dt data-hint="+1 the same on both sides, 0 unrelated, −1 turned: what is below 0 fades in mono">
          Correlation
        </dt>
        <dd>{correlation === null ? 'one side is silent' : writeNumber(correlation)}</dd>
        <dt data-hint="BS.1770-4: the last 0.4 s">Momentary</dt>
        <dd>{decibels(momentaryLufs, 'LUFS')}</dd>
        <dt data-hint="BS.1770-4: the last 3 s">Short-term</dt>
        <dd>{decibels(shortTermLufs, 'LUFS')}</dd>
        <dt data-hint="BS.1770-4, since it began">Integrated</dt>
        <dd>{decibels(integratedLufs, 'LUFS')}</dd>
        <dt data-hint="Tech 3342, since it began">Range</dt>
        <dd>{writeNumber(rangeLu)} LU</dd>
        <dt data-hint="BS.1770-4, fourfold oversampled, since it began">True peak</dt>
        <dd>{decibels(truePeakDbtp, 'dBTP')}</dd>
        <dt data-hint="Sample peak over RMS, since it began">Crest</dt>
        <dd>{writeNumber(crestDb)} dB</dd>
      </Figures>
    </>
  );
}

/** The same over the loop, rendered by the engine; with what the pass filters free. */
function OverLoop() {
  const subject = useMeters((meters) => meters.subject);
  const chosen = useSelection((selection) => selection.stripId);
  const stripId = subject === 'mix' ? MASTER_ID : chosen;
  const facts = useStripFacts(stripId);
  const name = stripId === MASTER_ID ? 'The mix' : stripName(facts);
  const isLooped = useSong((song) => song.loop?.enabled ?? false);
  const measuring = useMeasuredParts((state) => state.measuring);
  const measure = useMeasuredParts((state) => state.measure);
  const found = useMeasuredPart(stripId);
  return (
    <>
      <h2>Over {isLooped ? 'the loop' : 'the song'}</h2>
      <PanelLine>
        <Button
          onPress={() => void measure(stripId)}
          isDisabled={measuring !== null}
          data-hint="Rendered by the engine that plays, and measured"
        >
          {measuring ? 'Measuring …' : 'Measure it'}
        </Button>
        {found && !found.isCurrent && <span role="status">before the last changes</span>}
      </PanelLine>
      {found && (
        <div data-sound>
          <Figures aria-label={`${name}, measured`}>
            <dt>Integrated</dt>
            <dd>{decibels(found.figures.integratedLufs ?? -Infinity, 'LUFS')}</dd>
            <dt>Range</dt>
            <dd>{writeNumber(found.figures.loudnessRangeLu)} LU</dd>
            <dt>Loudest 3 s</dt>
            <dd>{decibels(found.figures.highestShortTermLufs ?? -Infinity, 'LUFS')}</dd>
            <dt>True peak</dt>
            <dd>{decibels(found.figures.truePeakDbtp, 'dBTP')}</dd>
            <dt>Crest</dt>
            <dd>{writeNumber(found.figures.crestDb)} dB</dd>
            <dt>Correlation</dt>
            <dd>{found.figures.correlation === null ? 'silent' : writeNumber(found.figures.correlation)}</dd>
            <dt data-hint="How much lower the pass filters make the true peak">Headroom freed</dt>
            <dd>{writeGain(found.figures.headroomFreedDb)}</dd>
          </Figures>
          {found.figures.stereo && <StereoChart bands={found.figures.stereo} />}
        </div>
      )}
    </>
  );
}

const Scale = styled.div`
  position: relative;
  height: 7px;
  margin: 2px 0 6px;
  border: 1px solid var(--rule);
  i {
    position: absolute;
    top: -3px;
    width: 3px;
    height: 11px;
    margin-left: -1px;
    background: var(--accent);
  }
`;
const Figures = styled.dl`
  display: grid;
  grid-template-columns: 100px 1fr;
  gap: 2px 8px;
  margin: 4px 0;
  dt {
    color: var(--soft);
  }
  dd {
    margin: 0;
    font-weight: 500;
  }
`;
