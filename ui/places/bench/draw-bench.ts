import type { MixedSpectrum, StereoBand } from '@/core/measure';
import { givesWay, isPassFilter, type Band, type BandChannel, type Equalizer } from '@/core/song';
import { drawFrequencyGrid, drawLevelLine } from '../../kit/axis/grid';
import { hatch } from '../../kit/axis/canvas';
import type { Still } from '../../kit/axis/still';
import { liveLine, ridgePaths, tiltedBy, type PathSink } from '../../kit/axis/levels';
import type { FrequencyScale } from '../../kit/axis/scale';
import { channelLetter } from '../../kit/signs/channels';
import { SANS, type Tokens } from '../../kit/theme/tokens';
import { farthestDb, heldElsewhere } from './band-sign';
import type { BenchScale } from './bench-scale';
import type { BenchCurve, EqualizerCurve } from './bench-view';
import { drawImage } from './draw-image';
import { spectraShape } from './spectra-shape';
import { bandCurve, pathCurves, valueScale, type ValueScale } from './curves';

export interface BenchPicture {
  axis: FrequencyScale;
  scale: BenchScale;
  equalizer: Equalizer;
  /** The bands as they are in the song: where their signs stand, though a passage holds them elsewhere. */
  resting: readonly Band[];
  channels: 1 | 2;
  /** The path that is worked on. */
  path: BandChannel;
  curve: BenchCurve;
  /** How the sides of the strip stand to each other; null while that is not measured. */
  stereo: { bands: readonly StereoBand[]; isCurrent: boolean } | null;
  rateHz: number;
  chosenBandId: string | null;
  spectrum: MixedSpectrum;
  topDb: number;
  ink: string;
  liveBefore: ArrayLike<number> | undefined;
  liveAfter: ArrayLike<number> | undefined;
  held: ArrayLike<number> | undefined;
  /** What rests while a curve moves: the grid with the spectrum before the chain, and the labels of the levels. */
  ground: Still;
  labels: Still;
  /** What all spectra are tilted by about 1 kHz, dB per octave. */
  tiltDb: number;
}

const frequencies = new WeakMap<FrequencyScale, Float64Array>();

/** A frequency for every pixel of the field: one list for each axis. */
function pixelFrequencies(axis: FrequencyScale): Float64Array {
  const kept = frequencies.get(axis);
  if (kept) return kept;
  const made = Float64Array.from({ length: Math.max(2, Math.ceil(axis.width) + 1) }, (_, x) => axis.hz(x));
  frequencies.set(axis, made);
  return made;
}

/** A stretch of a curve is drawn straight where it strays no farther from that, pixels. */
const STRAIGHT = 0.15;

/** A line through one value for each pixel, with points only where it bends; a jump of more than `breakAt` is left open. */
export function traceCurve(
  sink: Pick<PathSink, 'moveTo' | 'lineTo'>,
  values: ArrayLike<number>,
  y: (value: number) => number,
  breakAt = Infinity,
): void {
  let [cornerX, cornerY, slope] = [0, y(values[0]), 0];
  let before = cornerY;
  sink.moveTo(0, cornerY);
  for (let x = 1; x < values.length; x++) {
    const now = y(values[x]);
    const isBroken = Math.abs(values[x] - values[x - 1]) > breakAt;
    if (cornerX === x - 1 && !isBroken) slope = now - cornerY;
    else if (isBroken || Math.abs(now - cornerY - slope * (x - cornerX)) > STRAIGHT) {
      if (cornerX < x - 1) sink.lineTo(x - 1, before);
      [cornerX, cornerY, slope] = isBroken ? [x, now, 0] : [x - 1, before, now - before];
      if (isBroken) sink.moveTo(x, now);
    }
    before = now;
  }
  if (cornerX < values.length - 1) sink.lineTo(values.length - 1, before);
}

/** Height of a level, kept within the field. */
const levelY = (scale: BenchScale) => (db: number) =>
  Math.min(scale.height - 7, Math.max(4, scale.y(Math.max(-999, db))));

function drawGrid(context: CanvasRenderingContext2D, { axis, scale }: BenchPicture, tokens: Tokens): void {
  drawFrequencyGrid(context, axis, scale.height, tokens.grid);
  for (const db of scale.ticksDb) {
    drawLevelLine(context, axis.width, scale.y(db), db === 0 ? tokens.rule : tokens.grid, db === 0 ? 1.5 : 1);
  }
}

/** Baselines of a level's label above its line and below it, and how far the middle of its letters lies above its baseline, pixels. */
const ABOVE = -4;
const BELOW = 12;
const MIDDLE = 4;
/** A curve that comes no nearer does not touch it. */
const CLEAR = 7;

/**
 * Where the labels of lines stand, all alike: above them, or below where a curve runs through one of them there and leaves more room below.
 * @param lines heights of the lines, pixels
 * @param curves heights of the curves where labels stand
 * @returns what is added to the height of a line
 */
export function labelOffset(lines: readonly number[], curves: readonly number[]): number {
  const room = (offset: number) =>
    Math.min(...lines.flatMap((line) => curves.map((y) => Math.abs(y - (line + offset - MIDDLE)))), Infinity);
  return room(ABOVE) < CLEAR && room(BELOW) > room(ABOVE) ? BELOW : ABOVE;
}

/** Width that labels take, pixels. */
const LABEL_WIDTH = 34;

/** The levels of the grid's lines, over everything that is drawn and beside the curves: a curve must not hide them. */
function drawLabels(
  context: CanvasRenderingContext2D,
  { axis, scale, labels }: BenchPicture,
  curves: ReturnType<typeof pathCurves>,
  tokens: Tokens,
): void {
  const y = levelY(scale);
  const heights = curves.flatMap(({ values }) =>
    [LABEL_WIDTH, LABEL_WIDTH / 2, 6].map((left) => y(values[Math.max(0, Math.round(axis.width - left))])),
  );
  const lines = scale.ticksDb.map((db) => Math.round(scale.y(db)));
  const offset = labelOffset(lines, heights);
  const place = { x: Math.round(axis.width) - LABEL_WIDTH - 6, y: 0, width: LABEL_WIDTH + 6, height: scale.height };
  labels.draw(context, place, [scale, offset, tokens], (at) => {
    at.font = `400 11px ${SANS}`;
    at.textRendering = 'geometricPrecision';
    at.textAlign = 'right';
    at.lineJoin = 'round';
    at.lineWidth = 4;
    at.strokeStyle = tokens.field;
    at.fillStyle = tokens.soft;
    for (const db of scale.ticksDb) {
      const label = db === 0 ? '0 dB' : `${db > 0 ? '+' : '−'}${Math.abs(db)}`;
      const baseline = Math.round(scale.y(db)) + offset;
      at.strokeText(label, LABEL_WIDTH, baseline);
      at.fillText(label, LABEL_WIDTH, baseline);
    }
  });
}

function drawShutSides(
  context: CanvasRenderingContext2D,
  { axis, scale, equalizer, path }: BenchPicture,
  tokens: Tokens,
): void {
  for (const band of equalizer.bands) {
    if (!band.enabled || !isPassFilter(band.type) || (band.channel !== 'stereo' && band.channel !== path)) continue;
    const x = Math.min(axis.width, Math.max(0, axis.x(band.frequencyHz)));
    if (band.type === 'high-pass') hatch(context, 0, 0, x, scale.height, tokens.grid, 9);
    else hatch(context, x, 0, axis.width - x, scale.height, tokens.grid, 9);
  }
}

/** What rests while the bands are moved: the grid, and dotted the spectrum before the chain. */
function drawGround(context: CanvasRenderingContext2D, picture: BenchPicture, tokens: Tokens): void {
  const { axis, scale, spectrum, topDb, tiltDb, ground } = picture;
  const place = { y: 0, width: Math.ceil(axis.width), height: scale.height };
  ground.draw(context, place, [axis, scale, spectrum.beforeDb, topDb, tiltDb, tokens], (at) => {
    drawGrid(at, picture, tokens);
    at.setLineDash([1.5, 3]);
    at.strokeStyle = tokens.soft;
    at.lineWidth = 1;
    at.stroke(ridgePaths(tiltedBy(tiltDb, spectrum.beforeDb), spectraShape(axis, topDb, scale.height)).line);
    at.setLineDash([]);
  });
}

function drawSpectra(context: CanvasRenderingContext2D, picture: BenchPicture, tokens: Tokens): void {
  const { axis, scale, spectrum, topDb, ink, liveBefore, liveAfter, held, tiltDb } = picture;
  const tilted = (levelsDb: ArrayLike<number>) => tiltedBy(tiltDb, levelsDb);
  const shape = spectraShape(axis, topDb, scale.height);
  context.globalAlpha = 0.17;
  context.fillStyle = ink;
  context.fill(ridgePaths(tilted(spectrum.afterDb), shape).area);
  context.globalAlpha = 1;
  const strokeLive = (levelsDb: ArrayLike<number>, colour: string, width: number) => {
    context.beginPath();
    liveLine(context, tilted(levelsDb), shape);
    context.strokeStyle = colour;
    context.lineWidth = width;
    context.stroke();
  };
  if (liveBefore) strokeLive(liveBefore, tokens.rule, 1);
  if (liveAfter) strokeLive(liveAfter, ink, 1);
  if (held) strokeLive(held, ink, 0.8);
}

/** The share that the chosen band has in the curve, filled. */
function drawChosen(
  context: CanvasRenderingContext2D,
  { rateHz, scale, axis }: BenchPicture,
  band: Band,
  frequenciesHz: Float64Array,
  tokens: Tokens,
): void {
  if (!band.enabled || isPassFilter(band.type)) return;
  context.beginPath();
  traceCurve(context, bandCurve('level', band, frequenciesHz, rateHz), levelY(scale));
  context.lineTo(axis.width, scale.y(0));
  context.lineTo(0, scale.y(0));
  context.closePath();
  context.globalAlpha = 0.16;
  context.fillStyle = tokens.accent;
  context.fill();
  context.globalAlpha = 1;
}

/** Bands that give way: the curve at their farthest, fainter, and a rail from the rest of each to its farthest place. */
function drawFarthest(
  context: CanvasRenderingContext2D,
  picture: BenchPicture,
  frequenciesHz: Float64Array,
  tokens: Tokens,
): void {
  const { equalizer, axis, scale } = picture;
  const moving = equalizer.bands.filter((band) => givesWay(band) && band.enabled);
  if (moving.length === 0 || !equalizer.enabled) return;
  const bands = equalizer.bands.map((band) => (moving.includes(band) ? { ...band, gainDb: farthestDb(band) } : band));
  const y = levelY(scale);
  for (const { values } of pathCurves('level', { ...equalizer, bands }, picture, frequenciesHz)) {
    context.beginPath();
    traceCurve(context, values, y);
    context.strokeStyle = tokens.ink;
    context.globalAlpha = 0.35;
    context.lineWidth = 1.4;
    context.stroke();
  }
  context.globalAlpha = 1;
  for (const band of moving) {
    const x = Math.round(axis.x(band.frequencyHz)) + 0.5;
    context.beginPath();
    context.moveTo(x, y(band.gainDb));
    context.lineTo(x, y(farthestDb(band)));
    context.moveTo(x - 6, y(farthestDb(band)));
    context.lineTo(x + 6, y(farthestDb(band)));
    context.strokeStyle = tokens.soft;
    context.lineWidth = 1;
    context.stroke();
  }
}

/** Bands that a passage holds elsewhere: a rail from each sign to a ring where it is now. */
function drawHeldElsewhere(context: CanvasRenderingContext2D, picture: BenchPicture, tokens: Tokens): void {
  const { equalizer, resting, axis, scale, chosenBandId } = picture;
  for (const { id, from, to } of heldElsewhere(equalizer.bands, resting, axis, scale)) {
    context.strokeStyle = id === chosenBandId ? tokens.accent : tokens.ink;
    context.fillStyle = tokens.field;
    context.lineWidth = 1.5;
    context.setLineDash([2, 3]);
    context.beginPath();
    context.moveTo(from.x, from.y);
    context.lineTo(to.x, to.y);
    context.stroke();
    context.setLineDash([]);
    context.beginPath();
    context.arc(to.x, to.y, 5, 0, 2 * Math.PI);
    context.fill();
    context.stroke();
  }
}

/** How the lines of the paths differ beside their letters: mid and left go on, side and right are dashed. */
const DASHES: Record<BandChannel, number[]> = { stereo: [], mid: [], side: [9, 4], left: [2, 3], right: [9, 3, 2, 3] };

interface CurvePen {
  y: (value: number) => number;
  breakAt?: number;
  colour: string;
  width: number;
}

function drawPaths(
  context: CanvasRenderingContext2D,
  picture: BenchPicture,
  curves: ReturnType<typeof pathCurves>,
  { y, breakAt, colour, width }: CurvePen,
): void {
  const { equalizer, axis } = picture;
  for (const { path, values, isMain } of curves) {
    context.beginPath();
    traceCurve(context, values, y, breakAt);
    context.strokeStyle = context.fillStyle = colour;
    context.setLineDash(equalizer.enabled ? DASHES[path] : [5, 4]);
    context.lineWidth = isMain ? width : width / 2;
    context.globalAlpha = isMain ? 1 : 0.6;
    context.stroke();
    context.setLineDash([]);
    if (path !== 'stereo') {
      const x = farthestX(
        values,
        curves.filter((other) => other.path !== path).map((other) => other.values),
        axis.width,
      );
      context.font = `600 12px ${SANS}`;
      context.textAlign = 'center';
      context.fillText(channelLetter(path), x, y(values[x]) - 7);
    }
    context.globalAlpha = 1;
  }
}

/** Where a path's letter stands: where its curve is farthest from all others, or near the left end where it never leaves them. */
function farthestX(values: ArrayLike<number>, others: readonly ArrayLike<number>[], width: number): number {
  let best = 40;
  let most = 0.2;
  for (let x = 20; x < Math.min(values.length, width - 40); x++) {
    const apart = Math.min(...others.map((other) => Math.abs(other[x] - values[x])));
    if (Number.isFinite(apart) && apart > most) [best, most] = [x, apart];
  }
  return best;
}

const VALUE_MARGIN = 10;
const valueY = (scale: BenchScale, { top, bottom }: ValueScale) => {
  const perUnit = (scale.height - 2 * VALUE_MARGIN) / (top - bottom);
  return (value: number) => VALUE_MARGIN + (top - Math.min(top, Math.max(bottom, value))) * perUnit;
};

/** Phase or delay, with a scale of its own at the left; the level stays in sight as a thin line. */
function drawValues(
  context: CanvasRenderingContext2D,
  picture: BenchPicture,
  curve: Exclude<EqualizerCurve, 'level'>,
  frequenciesHz: Float64Array,
  tokens: Tokens,
): void {
  const { equalizer, scale, axis, rateHz, chosenBandId } = picture;
  const curves = pathCurves(curve, equalizer, picture, frequenciesHz);
  const chosen = equalizer.bands.find((band) => band.id === chosenBandId && band.enabled);
  const own = chosen && equalizer.phase !== 'linear' ? bandCurve(curve, chosen, frequenciesHz, rateHz) : undefined;
  const values = valueScale(curve, [...curves.map((curve) => curve.values), ...(own ? [own] : [])]);
  const y = valueY(scale, values);
  const breakAt = curve === 'wrapped-phase' ? 180 : undefined;
  context.font = `400 11px ${SANS}`;
  context.textAlign = 'left';
  for (const tick of values.ticks) {
    const at = Math.round(y(tick)) + 0.5;
    drawLevelLine(context, axis.width, y(tick), tick === 0 ? tokens.rule : tokens.grid);
    context.fillStyle = tokens.soft;
    context.fillText(values.write(tick), 6, at - 3 < 9 ? at + 11 : at - 3);
  }
  if (own) {
    context.beginPath();
    traceCurve(context, own, y, breakAt);
    context.strokeStyle = tokens.accent;
    context.lineWidth = 1.4;
    context.stroke();
  }
  drawPaths(context, picture, curves, { y, breakAt, colour: tokens.ink, width: 2.2 });
}

/** Everything of the bench that is not a handle. */
export function drawBench(context: CanvasRenderingContext2D, picture: BenchPicture, tokens: Tokens): void {
  const { axis, scale, equalizer, chosenBandId, curve } = picture;
  if (axis.width === 0) return;
  const frequenciesHz = pixelFrequencies(axis);
  const levels = pathCurves('level', equalizer, picture, frequenciesHz);
  const levelPen = { y: levelY(scale), colour: equalizer.enabled ? tokens.ink : tokens.soft, width: 2.2 };
  drawShutSides(context, picture, tokens);
  if (curve === 'image') {
    drawPaths(context, picture, levels, { ...levelPen, colour: tokens.soft, width: 1 });
    const { bands = null, isCurrent = true } = picture.stereo ?? {};
    drawImage(context, { axis, height: scale.height, bands, isCurrent }, tokens);
    return;
  }
  if (curve !== 'level') {
    drawFrequencyGrid(context, axis, scale.height, tokens.grid);
    drawPaths(context, picture, levels, { ...levelPen, colour: tokens.soft, width: 1 });
    drawValues(context, picture, curve, frequenciesHz, tokens);
    return;
  }
  drawGround(context, picture, tokens);
  drawSpectra(context, picture, tokens);
  const chosen = equalizer.bands.find((band) => band.id === chosenBandId);
  if (chosen && equalizer.enabled) drawChosen(context, picture, chosen, frequenciesHz, tokens);
  drawFarthest(context, picture, frequenciesHz, tokens);
  drawPaths(context, picture, levels, levelPen);
  drawHeldElsewhere(context, picture, tokens);
  drawLabels(context, picture, levels, tokens);
}
