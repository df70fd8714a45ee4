import { chainSections } from '@/core/engine';
import { magnitudesDb } from '@/core/filters';
import type { MixedSpectrum } from '@/core/measure';
import { isPassFilter, type Band, type Equalizer } from '@/core/song';
import { drawFrequencyGrid, hatch, ridgeArea, ridgeLine, type FrequencyScale, type RidgeShape } from '../axis';
import { SANS, type Tokens } from '../theme';
import type { BenchScale } from './bench-scale';

export interface BenchPicture {
  axis: FrequencyScale;
  scale: BenchScale;
  equalizer: Equalizer;
  rateHz: number;
  chosenBandId: string | null;
  spectrum: MixedSpectrum;
  topDb: number;
  ink: string;
  liveBefore: ArrayLike<number> | undefined;
  liveAfter: ArrayLike<number> | undefined;
}

/** Share of the bench's height that the spectra take at most. */
const SPECTRA_SHARE = 0.45;

/** A frequency for every pixel of the field. */
function pixelFrequencies(axis: FrequencyScale): Float64Array {
  return Float64Array.from({ length: Math.max(2, Math.ceil(axis.width) + 1) }, (_, x) => axis.hz(x));
}

/** Response of an equalizer by the coefficients that run, dB per pixel. */
function responseDb(equalizer: Equalizer, rateHz: number, frequenciesHz: Float64Array): Float64Array {
  return magnitudesDb(chainSections([{ ...equalizer, enabled: true }], rateHz), frequenciesHz, rateHz);
}

function curve(context: CanvasRenderingContext2D, levelsDb: Float64Array, scale: BenchScale): void {
  levelsDb.forEach((db, x) => {
    const y = Math.min(scale.height - 7, Math.max(4, scale.y(Math.max(-999, db))));
    if (x === 0) context.moveTo(x, y);
    else context.lineTo(x, y);
  });
}

function drawGrid(context: CanvasRenderingContext2D, { axis, scale }: BenchPicture, tokens: Tokens): void {
  drawFrequencyGrid(context, axis, scale.height, tokens.grid);
  context.font = `400 11px ${SANS}`;
  context.textAlign = 'right';
  for (const db of scale.ticksDb) {
    const y = Math.round(scale.y(db)) + 0.5;
    context.beginPath();
    context.moveTo(0, y);
    context.lineTo(axis.width, y);
    context.strokeStyle = db === 0 ? tokens.rule : tokens.grid;
    context.lineWidth = db === 0 ? 1.5 : 1;
    context.stroke();
    context.fillStyle = tokens.soft;
    context.fillText(db === 0 ? '0 dB' : `${db > 0 ? '+' : '−'}${Math.abs(db)}`, axis.width - 6, y - 4);
  }
}

function drawShutSides(
  context: CanvasRenderingContext2D,
  { axis, scale, equalizer }: BenchPicture,
  tokens: Tokens,
): void {
  for (const band of equalizer.bands) {
    if (!band.enabled || !isPassFilter(band.type)) continue;
    const x = Math.min(axis.width, Math.max(0, axis.x(band.frequencyHz)));
    if (band.type === 'high-pass') hatch(context, 0, 0, x, scale.height, tokens.grid, 9);
    else hatch(context, x, 0, axis.width - x, scale.height, tokens.grid, 9);
  }
}

function drawSpectra(context: CanvasRenderingContext2D, picture: BenchPicture, tokens: Tokens): void {
  const { axis, scale, spectrum, topDb, ink, liveBefore, liveAfter } = picture;
  const shape: RidgeShape = { scale: axis, topDb, footY: scale.height, topY: scale.height * (1 - SPECTRA_SHARE) };
  context.beginPath();
  ridgeArea(context, spectrum.afterDb, shape);
  context.globalAlpha = 0.17;
  context.fillStyle = ink;
  context.fill();
  context.globalAlpha = 1;
  const stroke = (levelsDb: ArrayLike<number>, colour: string, width: number, dash: number[]) => {
    context.beginPath();
    ridgeLine(context, levelsDb, shape);
    context.setLineDash(dash);
    context.strokeStyle = colour;
    context.lineWidth = width;
    context.stroke();
    context.setLineDash([]);
  };
  stroke(spectrum.beforeDb, tokens.soft, 1, [1.5, 3]);
  if (liveBefore) stroke(liveBefore, tokens.rule, 1, []);
  if (liveAfter) stroke(liveAfter, ink, 1, []);
}

/** The share that the chosen band has in the curve, filled. */
function drawChosen(
  context: CanvasRenderingContext2D,
  picture: BenchPicture,
  band: Band,
  frequenciesHz: Float64Array,
  tokens: Tokens,
): void {
  if (!band.enabled || isPassFilter(band.type)) return;
  const { equalizer, rateHz, scale, axis } = picture;
  const own = responseDb({ ...equalizer, outputGainDb: 0, bands: [band] }, rateHz, frequenciesHz);
  context.beginPath();
  curve(context, own, scale);
  context.lineTo(axis.width, scale.y(0));
  context.lineTo(0, scale.y(0));
  context.closePath();
  context.globalAlpha = 0.16;
  context.fillStyle = tokens.accent;
  context.fill();
  context.globalAlpha = 1;
}

/** Everything of the bench that is not a handle. */
export function drawBench(context: CanvasRenderingContext2D, picture: BenchPicture, tokens: Tokens): void {
  const { axis, scale, equalizer, rateHz, chosenBandId } = picture;
  if (axis.width === 0) return;
  const frequenciesHz = pixelFrequencies(axis);
  drawShutSides(context, picture, tokens);
  drawGrid(context, picture, tokens);
  drawSpectra(context, picture, tokens);
  const chosen = equalizer.bands.find((band) => band.id === chosenBandId);
  if (chosen && equalizer.enabled) drawChosen(context, picture, chosen, frequenciesHz, tokens);
  context.beginPath();
  curve(context, responseDb(equalizer, rateHz, frequenciesHz), scale);
  context.strokeStyle = equalizer.enabled ? tokens.ink : tokens.soft;
  context.setLineDash(equalizer.enabled ? [] : [5, 4]);
  context.lineWidth = 2.2;
  context.stroke();
  context.setLineDash([]);
}
