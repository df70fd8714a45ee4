import { compileSong } from '@/core/engine';
import type { FrequencyBand } from '@/core/measure';
import { findStrip, firstEqualizer, type RegisterRow, type Song, type Strip } from '@/core/song';
import { liveLine, ridgeTopDb } from '../../kit/axis/levels';
import type { FrequencyScale } from '../../kit/axis/scale';
import { useEyesOff } from '../../kit/eyes/eyes-off';
import { currentTokens } from '../../kit/theme/theme-store';
import type { Tokens } from '../../kit/theme/tokens';
import type { Desk } from '../../window/desk/desk';
import { songOf } from '../../window/song/live-song';
import { useSelection } from '../../window/song/selection';
import { useAnalyses } from '../../window/sound/analyses';
import { liveAtFader } from '../../window/sound/live';
import { useMix } from '../../window/sound/mix';
import { stripSpectrum } from '../../window/sound/spectra';
import { useEdgeShade } from '../../work/ends/edge-shade';
import { hatchedRanges } from '../../work/overlaps/overlaps-store';
import { drawLane, laneShape, type LanePicture } from './draw-lane';

interface Layout {
  rows: readonly RegisterRow[];
  laneHeight: number;
  height: number;
  axis: FrequencyScale;
}

/** A lane at rest, and what it was drawn from. */
interface Bitmap {
  canvas: HTMLCanvasElement;
  from: readonly unknown[];
}

const NONE: readonly FrequencyBand[] = [];
const isSameList = (some: readonly unknown[], others: readonly unknown[]) =>
  some.length === others.length && some.every((one, i) => one === others[i]);

/**
 * The picture of the Register, drawn outside React at most once a frame. What rests is a bitmap for each lane, drawn again when what it
 * shows has changed; live levels go on top. Only lanes in sight that were touched are drawn.
 */
export class RegisterPicture {
  private canvas: HTMLCanvasElement | null = null;
  private layout: Layout | null = null;
  private scrollTop = 0;
  private readonly touched = new Set<string>();
  private readonly bitmaps = new Map<string, Bitmap>();
  private frame = 0;
  private top: { from: readonly unknown[]; db: number } | null = null;

  constructor(private readonly desk: Desk) {}

  layOut(canvas: HTMLCanvasElement | null, layout: Layout): void {
    this.canvas = canvas;
    this.layout = layout;
    for (const id of this.bitmaps.keys()) if (!layout.rows.some((row) => row.id === id)) this.bitmaps.delete(id);
    this.touchAll();
  }

  scrollTo(scrollTop: number): void {
    this.scrollTop = scrollTop;
    this.touchAll();
  }

  touchAll(): void {
    for (const { id } of this.layout?.rows ?? []) this.touched.add(id);
    this.ask();
  }

  /** Lanes of strips that differ between two songs. */
  touchChanged(now: Song, before: Song): void {
    for (const { id } of this.layout?.rows ?? [])
      if (findStrip(now, id) !== findStrip(before, id)) this.touched.add(id);
    this.ask();
  }

  /** Lanes of groups and of the master, which show sums. */
  touchSums(): void {
    for (const { id, kind } of this.layout?.rows ?? []) if (kind !== 'track') this.touched.add(id);
    this.ask();
  }

  /** The lanes whose turn it is. */
  touchTurn(turn: number, turns: number): void {
    this.layout?.rows.forEach(({ id, kind }, i) => {
      if (kind === 'track' && i % turns === turn) this.touched.add(id);
    });
    this.ask();
  }

  stop(): void {
    cancelAnimationFrame(this.frame);
    this.frame = 0;
  }

  private ask(): void {
    if (this.touched.size > 0) this.frame ||= requestAnimationFrame(() => this.draw());
  }

  private draw(): void {
    this.frame = 0;
    const context = this.canvas?.getContext('2d');
    if (!this.canvas || !context || !this.layout) return;
    const { rows, laneHeight, height, axis } = this.layout;
    const ratio = window.devicePixelRatio || 1;
    const [wide, high] = [Math.round(axis.width * ratio), Math.round(height * ratio)];
    if (this.canvas.width !== wide || this.canvas.height !== high) {
      this.canvas.width = wide;
      this.canvas.height = high;
      this.touchAll();
    }
    const tokens = currentTokens();
    const isEyesOff = useEyesOff.getState().isOff;
    const song = songOf(this.desk);
    const hatched = hatchedRanges(this.desk);
    const below = rows.length * laneHeight - this.scrollTop;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    if (below < height) context.clearRect(0, below, axis.width, height - below);
    rows.forEach(({ id }, i) => {
      const y = i * laneHeight - this.scrollTop;
      if (!this.touched.has(id) || y > height || y + laneHeight < 0) return;
      context.clearRect(0, y, axis.width, laneHeight);
      const strip = findStrip(song, id);
      if (!strip || isEyesOff) return;
      this.drawRow(context, song, strip, y, hatched.get(id) ?? NONE, tokens, ratio);
    });
    this.touched.clear();
  }

  private drawRow(
    context: CanvasRenderingContext2D,
    song: Song,
    strip: Strip,
    y: number,
    overlaps: readonly FrequencyBand[],
    tokens: Tokens,
    ratio: number,
  ): void {
    const { laneHeight, axis } = this.layout!;
    const { stripId, others } = useSelection.of(this.desk);
    if (strip.id === stripId || others.includes(strip.id)) {
      context.fillStyle = tokens.selected;
      context.fillRect(0, y + 1, axis.width, laneHeight - 1);
    }
    const picture = this.pictureOf(song, strip, overlaps, tokens);
    context.drawImage(this.bitmapOf(strip.id, picture, tokens, ratio), 0, y, axis.width, laneHeight);
    const live = 'audioId' in strip ? liveAtFader(this.desk, strip, 'after') : undefined;
    if (!live) return;
    context.save();
    context.translate(0, y);
    context.globalAlpha = picture.isSilent ? 0.26 : 0.75;
    context.beginPath();
    liveLine(context, live, laneShape(picture));
    context.strokeStyle = tokens.ink;
    context.lineWidth = 0.8;
    context.stroke();
    context.restore();
  }

  private pictureOf(song: Song, strip: Strip, overlaps: readonly FrequencyBand[], tokens: Tokens): LanePicture {
    const { laneHeight, axis } = this.layout!;
    const { byAudio } = useAnalyses.of(this.desk);
    const isChosen = useSelection.of(this.desk).stripId === strip.id;
    const shade = useEdgeShade.of(this.desk);
    const at = song.tracks.findIndex(({ id }) => id === strip.id);
    return {
      axis,
      height: laneHeight,
      bands: firstEqualizer(strip)?.bands ?? [],
      spectrum: stripSpectrum(song, strip, byAudio),
      topDb: this.topDb(song),
      ink: 'ink' in strip ? tokens.inks[strip.ink] : tokens.soft,
      isSilent: at >= 0 && compileSong(song).tracks[at].audible === 0,
      overlaps,
      space: isChosen ? useMix.of(this.desk).space : NONE,
      shade: shade.stripId === strip.id ? shade.range : null,
    };
  }

  private bitmapOf(id: string, picture: LanePicture, tokens: Tokens, ratio: number): HTMLCanvasElement {
    const { overlaps, space, bands, spectrum, ...plain } = picture;
    const ranges = [...overlaps, null, ...space].flatMap((range) => (range ? [range.lowHz, range.highHz] : [null]));
    const from = [tokens, ratio, ...bands, spectrum.afterDb, spectrum.beforeDb, ...Object.values(plain), ...ranges];
    const known = this.bitmaps.get(id);
    if (known && isSameList(known.from, from)) return known.canvas;
    const canvas = known?.canvas ?? document.createElement('canvas');
    canvas.width = Math.max(1, Math.round(picture.axis.width * ratio));
    canvas.height = Math.max(1, Math.round(picture.height * ratio));
    const context = canvas.getContext('2d')!;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    drawLane(context, picture, tokens);
    this.bitmaps.set(id, { canvas, from });
    return canvas;
  }

  /** The level at the top of every ridge: it depends on the recordings only, so nothing jumps while a fader moves. */
  private topDb(song: Song): number {
    const { byAudio } = useAnalyses.of(this.desk);
    const from = [byAudio, ...song.tracks.map(({ audioId }) => audioId)];
    if (!this.top || !isSameList(this.top.from, from)) {
      const spectra = song.tracks.map(({ audioId }) => byAudio[audioId]?.spectrumDb ?? []);
      this.top = { from, db: ridgeTopDb(spectra) };
    }
    return this.top.db;
  }
}
