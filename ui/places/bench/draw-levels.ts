import { writeTime } from '@/core/formats';
import { COUNTED_DB, type Observed, type ObservedLevels } from '@/core/mix';
import { compressorCurveDb, type ProcessorSettings } from '@/core/processors';
import { hatch } from '../../kit/axis/canvas';
import { SANS, type Tokens } from '../../kit/theme/tokens';

/** Where the picture of a processor's levels lies in its field: time on the left, what comes out against what goes in on the right. */
export interface LevelsPlace {
  width: number;
  height: number;
  /** Where the left part ends. */
  timeWidth: number;
  lowestDb: number;
}

export const HIGHEST_DB = 6;
const FOOT = 18;
const CURVE_WIDTH = 150;
const NARROWEST = 420;

export function levelsPlace(width: number, height: number, kind: ProcessorSettings['kind']): LevelsPlace {
  const hasCurve = kind !== 'ducker' && width > NARROWEST;
  return { width, height, timeWidth: hasCurve ? width - CURVE_WIDTH : width, lowestDb: kind === 'gate' ? -90 : -60 };
}

export const levelY = ({ height, lowestDb }: LevelsPlace, db: number) =>
  4 + ((HIGHEST_DB - Math.max(lowestDb, Math.min(HIGHEST_DB, db))) / (HIGHEST_DB - lowestDb)) * (height - FOOT - 4);
export const levelAtY = ({ height, lowestDb }: LevelsPlace, y: number) =>
  HIGHEST_DB - ((y - 4) / (height - FOOT - 4)) * (HIGHEST_DB - lowestDb);

const toDb = (peak: number) => 20 * Math.log10(Math.max(1e-10, peak));

/** What comes out at rest against what goes in, dB; null where that depends on another strip. */
function outDb(processor: ProcessorSettings, inDb: number): number | null {
  switch (processor.kind) {
    case 'compressor':
      return compressorCurveDb(inDb, processor);
    case 'gate':
      return inDb >= processor.thresholdDb ? inDb : inDb + processor.depthDb;
    case 'limiter':
      return Math.min(inDb, processor.ceilingDb);
    default:
      return null;
  }
}

export interface LevelsPicture {
  processor: ProcessorSettings;
  observed: Observed | null;
  span: { from: number; to: number };
  ink: string;
}

/** Levels of the loop as they come in and as they go out, the threshold, and what is taken away between the two. */
export function drawLevels(
  context: CanvasRenderingContext2D,
  place: LevelsPlace,
  { processor, observed, span, ink }: LevelsPicture,
  tokens: Tokens,
): void {
  drawGrid(context, place, span, tokens);
  if (observed) {
    const before = linePoints(place, observed.before);
    const after = linePoints(place, observed.after);
    context.save();
    context.beginPath();
    trace(context, before);
    for (let i = after.length - 1; i >= 0; i--) context.lineTo(after[i].x, after[i].y);
    context.closePath();
    context.clip();
    hatch(context, 0, 0, place.timeWidth, place.height, tokens.accent, 6);
    context.restore();
    context.beginPath();
    trace(context, after);
    context.lineTo(place.timeWidth, place.height - FOOT);
    context.lineTo(0, place.height - FOOT);
    context.globalAlpha = 0.22;
    context.fillStyle = ink;
    context.fill();
    context.globalAlpha = 1;
    context.lineWidth = 1.2;
    context.strokeStyle = ink;
    context.beginPath();
    trace(context, after);
    context.stroke();
    context.setLineDash([1.5, 3]);
    context.strokeStyle = tokens.soft;
    context.beginPath();
    trace(context, before);
    context.stroke();
    context.setLineDash([]);
    if (observed.key) {
      context.strokeStyle = tokens.claim;
      context.beginPath();
      trace(context, linePoints(place, observed.key));
      context.stroke();
    }
  }
  drawScale(context, place, tokens);
  if (place.timeWidth < place.width) drawCurve(context, place, processor, observed, tokens);
}

function drawGrid(
  context: CanvasRenderingContext2D,
  place: LevelsPlace,
  { from, to }: { from: number; to: number },
  tokens: Tokens,
): void {
  context.font = `400 11px ${SANS}`;
  context.lineWidth = 1;
  for (let db = 0; db >= place.lowestDb; db -= 12) {
    const y = Math.round(levelY(place, db)) + 0.5;
    context.strokeStyle = db === 0 ? tokens.rule : tokens.grid;
    context.beginPath();
    context.moveTo(0, y);
    context.lineTo(place.width, y);
    context.stroke();
  }
  context.fillStyle = tokens.soft;
  context.textAlign = 'center';
  const step = [0.5, 1, 2, 5, 10, 20].find((seconds) => ((to - from) / seconds) * 60 < place.timeWidth) ?? 30;
  for (let at = Math.ceil(from / step) * step; at < to; at += step) {
    const x = Math.round(((at - from) / (to - from)) * place.timeWidth) + 0.5;
    if (x < 24 || x > place.timeWidth - 24) continue;
    context.strokeStyle = tokens.grid;
    context.beginPath();
    context.moveTo(x, 0);
    context.lineTo(x, place.height - FOOT);
    context.stroke();
    context.fillText(writeTime(at), x, place.height - 5);
  }
}

/** What the lines of the grid stand for, over whatever is drawn there. */
function drawScale(context: CanvasRenderingContext2D, place: LevelsPlace, tokens: Tokens): void {
  context.font = `400 11px ${SANS}`;
  context.textAlign = 'left';
  for (let db = 0; db >= place.lowestDb; db -= 12) {
    const y = Math.round(levelY(place, db)) + 0.5;
    const text = db === 0 ? '0 dBFS' : `−${-db}`;
    context.globalAlpha = 0.75;
    context.fillStyle = tokens.field;
    context.fillRect(3, y - 13, context.measureText(text).width + 6, 12);
    context.globalAlpha = 1;
    context.fillStyle = tokens.soft;
    context.fillText(text, 6, y - 3);
  }
}

interface Point {
  x: number;
  y: number;
}

function linePoints(place: LevelsPlace, { peaks }: ObservedLevels): Point[] {
  return Array.from(peaks, (peak, i) => ({
    x: (i / (peaks.length - 1)) * place.timeWidth,
    y: levelY(place, toDb(peak)),
  }));
}

function trace(context: CanvasRenderingContext2D, points: readonly Point[]): void {
  points.forEach(({ x, y }, i) => (i === 0 ? context.moveTo(x, y) : context.lineTo(x, y)));
}

/** What comes out against what goes in, with where the loop spends its time along its foot. */
function drawCurve(
  context: CanvasRenderingContext2D,
  place: LevelsPlace,
  processor: ProcessorSettings,
  observed: Observed | null,
  tokens: Tokens,
): void {
  const { timeWidth, width, height, lowestDb } = place;
  const x = (db: number) => timeWidth + 8 + ((db - lowestDb) / (HIGHEST_DB - lowestDb)) * (width - timeWidth - 12);
  context.fillStyle = tokens.field;
  context.fillRect(timeWidth, 0, width - timeWidth, height);
  context.strokeStyle = tokens.rule;
  context.strokeRect(timeWidth + 0.5, -1, width - timeWidth, height + 2);
  if (observed) {
    const most = Math.max(1, ...observed.before.counts);
    context.fillStyle = tokens.soft;
    context.globalAlpha = 0.25;
    observed.before.counts.forEach((count, bin) => {
      const db = COUNTED_DB.lowest + bin;
      const tall = (count / most) * (height - FOOT) * 0.4;
      if (db >= lowestDb) context.fillRect(x(db), height - FOOT - tall, x(db + 1) - x(db), tall);
    });
    context.globalAlpha = 1;
  }
  context.setLineDash([1.5, 3]);
  context.strokeStyle = tokens.soft;
  context.beginPath();
  context.moveTo(x(lowestDb), levelY(place, lowestDb));
  context.lineTo(x(0), levelY(place, 0));
  context.stroke();
  context.setLineDash([]);
  context.strokeStyle = tokens.ink;
  context.lineWidth = 1.8;
  context.beginPath();
  for (let db = lowestDb; db <= HIGHEST_DB; db += 0.5) {
    const y = levelY(place, outDb(processor, db) ?? db);
    if (db === lowestDb) context.moveTo(x(db), y);
    else context.lineTo(x(db), y);
  }
  context.stroke();
  context.lineWidth = 1;
  context.fillStyle = tokens.soft;
  context.textAlign = 'center';
  context.fillText('in → out', (timeWidth + width) / 2, height - 5);
}
