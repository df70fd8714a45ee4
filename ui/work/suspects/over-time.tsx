'use client';
import { useCallback, useEffect, useRef, useState } from 'react';
import { writeFrequency, writeTime } from '@/core/formats';
import { STEPS_PER_SECOND, type FrequencyBand, type StepRange } from '@/core/measure';
import { wholeRange } from '@/core/mix';
import type { Track } from '@/core/song';
import type { Suspect } from '@/core/suspects';
import { useCanvas } from '../../kit/axis/canvas';
import type { Tokens } from '../../kit/theme/tokens';
import { useDesk, type Desk } from '../../window/desk/desk';
import { overTimeUrl } from '../../window/server/measured-urls';
import { requestBytes } from '../../window/server/request';
import { songOf } from '../../window/song/live-song';
import { useAnalyses } from '../../window/sound/analyses';
import { commonStretch } from '../../window/sound/judge-pairs';
import { CHART_PLOT } from './finding-chart';

const SIZE = { rows: 60, columns: 95 };
const HEIGHT = 84;
const LONGEST_STEPS = 60 * STEPS_PER_SECOND;

interface Shown {
  stretch: StepRange;
  /** A byte for each column of each row. */
  levels: Uint8Array;
}

/** What is shown before the first moment of what is there in moments only. */
const LEAD_STEPS = 2 * STEPS_PER_SECOND;

/** The stretch of a track that is shown: the loop, or where it plays most; or one that begins right before a moment of what is looked for. */
function shownStretch(desk: Desk, trackId: string, moments: readonly number[]): StepRange | null {
  const song = songOf(desk);
  const track = song.tracks.find(({ id }) => id === trackId);
  if (!track) return null;
  const usual = commonStretch(song, [track], useAnalyses.of(desk).levels);
  const length = Math.min(usual.to - usual.from, LONGEST_STEPS);
  const steps = moments.map((seconds) => Math.round(seconds * STEPS_PER_SECOND));
  const isShown = steps.length === 0 || steps.some((step) => step >= usual.from && step < usual.from + length);
  const from = isShown ? usual.from : Math.max(0, steps[0] - LEAD_STEPS);
  return { from, to: Math.min(from + length, wholeRange(song).to) };
}

async function askFor(audioId: string, stretch: StepRange, range: FrequencyBand, signal: AbortSignal): Promise<Shown> {
  const query = new URLSearchParams(
    Object.entries({ ...stretch, low: range.lowHz, high: range.highHz, ...SIZE }).map(([name, value]) => [
      name,
      String(value),
    ]),
  );
  return { stretch, levels: await requestBytes(overTimeUrl(audioId, query.toString()), signal) };
}

/** Darker where it is louder. */
function drawLevels(context: CanvasRenderingContext2D, levels: Uint8Array, width: number, ink: string): void {
  const [red, green, blue] = [1, 3, 5].map((at) => parseInt(ink.slice(at, at + 2), 16));
  const image = new ImageData(SIZE.columns, SIZE.rows);
  levels.forEach((level, i) => image.data.set([red, green, blue, level], 4 * i));
  const small = new OffscreenCanvas(SIZE.columns, SIZE.rows);
  small.getContext('2d')!.putImageData(image, 0, 0);
  context.imageSmoothingEnabled = false;
  context.drawImage(small, 0, 0, width, HEIGHT);
}

/** The spectrum of a track's recording over time around a suspect, under the curve that it stands on: what stays in its place is a line downwards. */
export function OverTime({ track, suspect }: { track: Track; suspect: Suspect }) {
  const desk = useDesk();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [shown, setShown] = useState<Shown | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const { moments, picture } = suspect;
  const { frequenciesHz } = picture;
  const [lowHz, highHz] = [frequenciesHz[0], frequenciesHz[frequenciesHz.length - 1]];
  const { width } = CHART_PLOT;

  useEffect(() => {
    const ending = new AbortController();
    const stretch = shownStretch(desk, track.id, moments ?? []);
    if (stretch)
      askFor(track.audioId, stretch, { lowHz, highHz }, ending.signal).then(setShown, (error: Error) => {
        if (!ending.signal.aborted) setProblem(error.message);
      });
    return () => ending.abort();
  }, [desk, track.id, track.audioId, lowHz, highHz, moments]);

  const draw = useCallback(
    (context: CanvasRenderingContext2D, _: number, __: number, tokens: Tokens) => {
      if (!shown) return;
      drawLevels(context, shown.levels, width, tokens.ink);
      // Where the suspect lies.
      context.fillStyle = tokens.accent;
      const at = (hz: number) => (width * Math.log(hz / lowHz)) / Math.log(highHz / lowHz);
      for (const hz of [suspect.lowHz, suspect.highHz]) context.fillRect(Math.round(at(hz)), 0, 1, 6);
    },
    [shown, width, suspect, lowHz, highHz],
  );
  useCanvas(canvas, width, HEIGHT, draw);
  if (problem) return <p role="alert">The picture over time could not be had. {problem}</p>;
  const [from, to] = [shown?.stretch.from ?? 0, shown?.stretch.to ?? 0].map((step) =>
    writeTime(step / STEPS_PER_SECOND),
  );
  return (
    <figure style={{ gridColumn: '1 / 3', margin: '0 0 4px' }}>
      <canvas
        ref={canvas}
        role="img"
        aria-label={
          shown
            ? `Levels around ${writeFrequency(suspect.frequencyHz)} over time, from ${from} at the top to ${to}`
            : 'Levels over time, on their way'
        }
        style={{ display: 'block', width, height: HEIGHT, marginLeft: CHART_PLOT.left }}
      />
      <figcaption style={{ color: 'var(--soft)', fontSize: 12 }}>
        {shown ? `Downwards from ${from} to ${to}: what stays in its place is a line` : 'Over time …'}
      </figcaption>
    </figure>
  );
}
