import { compileSong } from '@/core/engine';
import type { FrequencyBand } from '@/core/measure';
import type { StripMeasures } from '@/core/mix';
import { type RegisterRow, type Song, type Strip } from '@/core/song';
import { liveLine, ridgeTopDb, tiltedBy } from '../../kit/axis/levels';
import type { FrequencyScale } from '../../kit/axis/scale';
import { isSameList, Still } from '../../kit/axis/still';
import { useEyesOff } from '../../kit/eyes/eyes-off';
import { drawInFrame, forgetInFrame } from '../../kit/frames/pictures';
import { currentTokens } from '../../kit/theme/theme-store';
import type { Tokens } from '../../kit/theme/tokens';
import type { Desk } from '../../window/desk/desk';
import { soundingSong } from '../../window/song/sounding-song';
import { useSelection } from '../../window/song/selection';
import { useAnalyses, type Analyses } from '../../window/sound/analyses';
import { liveAtFader } from '../../window/sound/live';
import { useMix } from '../../window/sound/mix';
import { stripSpectrum } from '../../window/sound/spectra';
import { useStripMeasures } from '../../window/sound/strip-measures';
import { useEdgeShade } from '../../work/ends/edge-shade';
import { hatchedRanges } from '../../work/overlaps/overlaps-store';
import { drawLane, drawLaneGround, laneScale, STRIP_LANE, type LanePicture } from './draw-lane';

interface Layout {
  rows: readonly RegisterRow[];
  laneHeight: number;
  height: number;
  axis: FrequencyScale;
}

const NONE: readonly FrequencyBand[] = [];

/** What may wait is drawn for so long in a frame, ms; lanes that have not had their turn then have it in the next. */
const BUDGET_MS = 2;

/** The ranges that were known, where the new ones are the same. */
function sameRanges(known: readonly FrequencyBand[] | undefined, ranges: readonly FrequencyBand[]) {
  const flat = (list: readonly FrequencyBand[]) => list.flatMap(({ lowHz, highHz }) => [lowHz, highHz]);
  return known && isSameList(flat(known), flat(ranges)) ? known : ranges;
}

/** What a lane shows of a song; a track is silent that is muted, or left out by a solo. */
interface LaneState {
  strip: Strip;
  isSilent: boolean;
}
const known = new WeakMap<Song, ReadonlyMap<string, LaneState>>();

/** What the lanes show of a song, by strip. */
function lanesOf(song: Song): ReadonlyMap<string, LaneState> {
  const kept = known.get(song);
  if (kept) return kept;
  const compiled = compileSong(song).tracks;
  const lanes = new Map<string, LaneState>(
    [...song.buses, song.master].map((strip) => [strip.id, { strip, isSilent: false }]),
  );
  song.tracks.forEach((strip, i) => lanes.set(strip.id, { strip, isSilent: compiled[i].audible === 0 }));
  known.set(song, lanes);
  return lanes;
}

/** What all lanes are drawn from. */
interface Surroundings {
  song: Song;
  tokens: Tokens;
  byAudio: Analyses;
  measures: StripMeasures;
  topDb: number;
  hatched: ReadonlyMap<string, readonly FrequencyBand[]>;
}

/**
 * The picture of the Register, drawn outside React at most once a frame. What rests is a bitmap for each lane, drawn again when what it
 * shows has changed; live levels go on top. Only lanes in sight that were touched are drawn: those that a gesture changes in the next frame,
 * those that only play, or were measured again, as time allows.
 */
export class RegisterPicture {
  private canvas: HTMLCanvasElement | null = null;
  private layout: Layout | null = null;
  private scrollTop = 0;
  private readonly changed = new Set<string>();
  private readonly waiting = new Set<string>();
  private readonly stills = new Map<string, Still>();
  /** Of the lane that was drawn last: kept while a drag draws the same one again and again. */
  private readonly ground = new Still();
  private judged = { hatched: new Map<string, readonly FrequencyBand[]>() as Surroundings['hatched'], space: NONE };
  private kept: { from: readonly unknown[]; topDb: number; hatched: Surroundings['hatched'] } | null = null;

  constructor(private readonly desk: Desk) {}

  layOut(canvas: HTMLCanvasElement | null, layout: Layout): void {
    this.canvas = canvas;
    this.layout = layout;
    for (const id of this.stills.keys()) if (!layout.rows.some((row) => row.id === id)) this.stills.delete(id);
    this.touchAll();
  }

  scrollTo(scrollTop: number): void {
    this.scrollTop = scrollTop;
    this.touchAll();
  }

  touchAll(): void {
    for (const { id } of this.layout?.rows ?? []) this.changed.add(id);
    this.ask();
  }

  /** All lanes, one after the other as time allows. */
  touchInTime(): void {
    for (const { id } of this.layout?.rows ?? []) this.waiting.add(id);
    this.ask();
  }

  /** Lanes of strips that differ between two songs, or that are heard in one of them only. */
  touchChanged(now: Song, before: Song): void {
    const [lanes, lanesBefore] = [lanesOf(now), lanesOf(before)];
    for (const { id } of this.layout?.rows ?? []) {
      const [lane, laneBefore] = [lanes.get(id), lanesBefore.get(id)];
      if (lane?.strip !== laneBefore?.strip || lane?.isSilent !== laneBefore?.isSilent) this.changed.add(id);
    }
    this.ask();
  }

  /** Lanes of which it is now judged otherwise who is in whose way, as time allows. */
  touchJudged(): void {
    const { hatched: before, space: spaceBefore } = this.judged;
    const { hatched } = this.surroundings();
    const { space } = useMix.of(this.desk);
    const { stripId } = useSelection.of(this.desk);
    this.judged = { hatched, space };
    for (const { id } of this.layout?.rows ?? [])
      if (before.get(id) !== hatched.get(id) || (id === stripId && space !== spaceBefore)) this.waiting.add(id);
    this.ask();
  }

  /** Lanes of groups and of the master, which show sums. */
  touchSums(): void {
    for (const { id, kind } of this.layout?.rows ?? []) if (kind !== 'track') this.changed.add(id);
    this.ask();
  }

  /** The lanes whose turn it is to show what plays. */
  touchTurn(turn: number, turns: number): void {
    this.layout?.rows.forEach(({ id, kind }, i) => {
      if (kind === 'track' && i % turns === turn) this.waiting.add(id);
    });
    this.ask();
  }

  stop(): void {
    forgetInFrame(this.draw);
  }

  private ask(): void {
    if (this.changed.size + this.waiting.size > 0) drawInFrame(this.draw);
  }

  private readonly draw = (): void => {
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
    const isEyesOff = useEyesOff.getState().isOff;
    const around = this.surroundings();
    const lanes = lanesOf(around.song);
    const below = rows.length * laneHeight - this.scrollTop;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    if (below < height) context.clearRect(0, below, axis.width, height - below);
    const drawRows = (wanted: ReadonlySet<string>, until: number) => {
      rows.forEach(({ id }, i) => {
        if (!wanted.has(id) || performance.now() > until) return;
        this.changed.delete(id);
        this.waiting.delete(id);
        const y = i * laneHeight - this.scrollTop;
        if (y > height || y + laneHeight < 0) return;
        context.clearRect(0, y, axis.width, laneHeight);
        const lane = lanes.get(id);
        if (lane && !isEyesOff) this.drawRow(context, around, lane, y);
      });
    };
    const began = performance.now();
    drawRows(this.changed, Infinity);
    drawRows(this.waiting, began + BUDGET_MS);
    this.changed.clear();
    this.ask();
  };

  private drawRow(context: CanvasRenderingContext2D, around: Surroundings, lane: LaneState, y: number): void {
    const { laneHeight: height, axis } = this.layout!;
    const { tokens, topDb } = around;
    const { strip, isSilent } = lane;
    const { stripId, others } = useSelection.of(this.desk);
    if (strip.id === stripId || others.includes(strip.id)) {
      context.fillStyle = tokens.selected;
      context.fillRect(0, y + 1, axis.width, height - 1);
    }
    const still = this.stills.get(strip.id) ?? new Still();
    this.stills.set(strip.id, still);
    const overlaps = around.hatched.get(strip.id) ?? NONE;
    const space = strip.id === stripId ? useMix.of(this.desk).space : NONE;
    const edge = useEdgeShade.of(this.desk);
    const shade = edge.stripId === strip.id ? edge.range : null;
    const picture = this.pictureOf(around, strip, { isSilent, overlaps, space, shade });
    still.draw(context, { y, width: axis.width, height }, [tokens, ...Object.values(picture)], (canvas) => {
      const ground = [axis, height, picture.spectrum.beforeDb, topDb, tokens];
      this.ground.draw(canvas, { y: 0, width: axis.width, height }, ground, (at) =>
        drawLaneGround(at, picture, tokens),
      );
      drawLane(canvas, picture, tokens);
    });
    const live = 'audioId' in strip ? liveAtFader(this.desk, strip, 'after') : undefined;
    if (!live || height < STRIP_LANE) return;
    const scale = laneScale(axis, height, topDb, picture.spectrum.beforeDb);
    context.save();
    context.translate(0, y);
    context.globalAlpha = isSilent ? 0.26 : 0.75;
    context.beginPath();
    liveLine(context, tiltedBy(scale.tiltDb, live), scale);
    context.strokeStyle = tokens.ink;
    context.lineWidth = 0.8;
    context.stroke();
    context.restore();
  }

  private pictureOf(
    { song, tokens, byAudio, measures, topDb }: Surroundings,
    strip: Strip,
    state: Pick<LanePicture, 'isSilent' | 'overlaps' | 'space' | 'shade'>,
  ): LanePicture {
    const { laneHeight, axis } = this.layout!;
    return {
      ...state,
      axis,
      height: laneHeight,
      chain: strip.chain,
      spectrum: stripSpectrum(song, strip, byAudio, measures),
      topDb,
      ink: 'ink' in strip ? tokens.inks[strip.ink] : tokens.soft,
    };
  }

  /** The level at the top of every ridge depends on the recordings only, so nothing jumps while a fader moves. */
  private surroundings(): Surroundings {
    const song = soundingSong(this.desk);
    const { byAudio } = useAnalyses.of(this.desk);
    const from = [
      byAudio,
      useMix.of(this.desk).figures.overlaps,
      song.leftOverlaps,
      ...song.tracks.map(({ audioId }) => audioId),
    ];
    if (!this.kept || !isSameList(this.kept.from, from)) {
      const topDb = ridgeTopDb(song.tracks.map(({ audioId }) => byAudio[audioId]?.spectrumDb ?? []));
      const known = this.kept?.hatched;
      const hatched = new Map(
        [...hatchedRanges(this.desk)].map(([id, ranges]) => [id, sameRanges(known?.get(id), ranges)]),
      );
      this.kept = { from, topDb, hatched };
    }
    const { topDb, hatched } = this.kept;
    const { measures } = useStripMeasures.of(this.desk);
    return { song, tokens: currentTokens(), byAudio, measures, topDb, hatched };
  }
}
