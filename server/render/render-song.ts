import {
  compileSong,
  inLongerBlocks,
  songKernels,
  MAX_BLOCK,
  renderMix,
  type MixBlock,
  type MixRange,
} from '@/core/engine';
import { wavTags, type RenderFormat, type SoundTags, type TagFigures } from '@/core/formats';
import { SoundMeter } from '@/core/measure';
import { makeRunner } from '@/core/processors';
import {
  BEFORE_END_SECONDS,
  NEAR_LU,
  TailFinder,
  targetGainDb,
  targetRemark,
  workingCeiling,
  type LoudnessTarget,
  type SoundFile,
} from '@/core/renders';
import { newProcessor, songLengthFrames, type Limiter, type Song } from '@/core/song';
import type { PageFile } from '../audio/page-file';
import { discard } from '../audio/store';
import { FloatFile } from './float-file';
import { FileSources } from './sources';
import { threadedGroups, threadsFor } from './threaded-groups';
import { writeFlac } from './write-flac';
import { writeMp3 } from './write-mp3';
import { writeWav, type SoundBlock, type Written } from './write-wav';

export interface RenderTask {
  song: Song;
  /** File of a recording's pages, by its id. */
  pageFiles: Record<string, PageFile>;
  /** Where the file is written; it must not exist. */
  out: string;
  /** The default is WAV. */
  file?: SoundFile;
  format: RenderFormat;
  /** The default is the whole song. */
  range?: MixRange;
  /** How long what rings on is waited for at most, the song whose ringing counts, and how long that is where it is known; the default ends at the end. */
  tail?: { seconds: number; of: Song; frames?: number };
  loudness?: LoudnessTarget | null;
  tags?: SoundTags;
}

export interface RenderedFile extends Written {
  integratedLufs: number | null;
  truePeakDbtp: number;
  /** How long it rings on. */
  tailFrames: number;
  /** What held the wanted loudness back. */
  remark?: string;
}

type Report = (step: string, progress: number) => void;

/**
 * The song's sound over a range, block by block; the sum of its tracks on all cores where it is long.
 * @param soundEndFrame recordings fade out after it
 * @param threads how many run the tracks; 0 is this one
 */
export function* mixBlocks(
  { song, pageFiles }: Pick<RenderTask, 'song' | 'pageFiles'>,
  range: MixRange,
  soundEndFrame?: number,
  threads = threadsFor(song, range),
): Generator<MixBlock> {
  const kernels = songKernels(song);
  const sources = new FileSources(song, pageFiles, soundEndFrame);
  const others = threads > 0 ? threadedGroups({ song, kernels, pageFiles, range, soundEndFrame }, threads) : undefined;
  try {
    yield* inLongerBlocks(renderMix(compileSong(song), sources.of, kernels, range, null, others));
  } finally {
    others?.end();
    sources.close();
  }
}

/** Frames after the end of a range until what rings on has died away. */
export function tailFrames(of: Pick<RenderTask, 'song' | 'pageFiles'>, range: MixRange, mostSeconds: number): number {
  if (mostSeconds === 0) return 0;
  const { rateHz } = of.song;
  const before = Math.min(range.endFrame - range.startFrame, BEFORE_END_SECONDS * rateHz);
  const finder = new TailFinder(rateHz, before);
  const listened = { startFrame: range.endFrame - before, endFrame: range.endFrame + Math.round(mostSeconds * rateHz) };
  for (const { left, right, frames } of mixBlocks(of, listened, range.endFrame, 0)) finder.push(left, right, frames);
  return finder.frames;
}

function tailOf(task: RenderTask, range: MixRange, report: Report): number {
  const { tail } = task;
  if (!tail || tail.seconds === 0) return 0;
  if (tail.frames !== undefined) return tail.frames;
  report('listening to how it ends', 0);
  return tailFrames({ ...task, song: tail.of }, range, tail.seconds);
}

/** What still rings when it is waited for no longer fades out over so much. */
const CUT_FADE_SECONDS = 0.5;

/**
 * Renders a song's mix to a sound file with the engine that plays it, a long one on all cores; the file is the same to the last bit.
 * @param wantedThreads how many run the tracks; 0 is this one
 */
export async function renderSongFile(task: RenderTask, report: Report, wantedThreads?: number): Promise<RenderedFile> {
  const { song, out } = task;
  const range = task.range ?? { startFrame: 0, endFrame: songLengthFrames(song) };
  const tailMost = Math.round((task.tail?.seconds ?? 0) * song.rateHz);
  const tail = tailOf(task, range, report);
  const whole = { startFrame: range.startFrame, endFrame: range.endFrame + tail };
  const frames = Math.max(0, whole.endFrame - whole.startFrame);
  const isCut = tail > 0 && tail > tailMost - 0.1 * song.rateHz;
  const fadeFrames = isCut ? Math.min(tail, Math.round(CUT_FADE_SECONDS * song.rateHz)) : 0;
  const meter = new SoundMeter(song.rateHz, 2);

  function* blocks(): Generator<SoundBlock> {
    for (const block of mixBlocks(task, whole, tail > 0 ? range.endFrame : undefined, wantedThreads)) {
      if (fadeFrames > 0) fadeOut(block, whole.endFrame, fadeFrames);
      const samples = [block.left, block.right];
      meter.push(samples.map((side) => side.subarray(0, block.frames)));
      yield { samples, frames: block.frames };
      report('rendering', (block.frame + block.frames - whole.startFrame) / frames);
    }
  }

  if (task.loudness)
    return { ...(await renderToLoudness(task, task.loudness, blocks, meter, report)), tailFrames: tail };
  const written = await writeSound(task, out, blocks(), () => meter);
  return { ...written, ...told(meter), tailFrames: tail };
}

const told = (meter: SoundMeter) => {
  const { integratedLufs, truePeakDbtp } = figuresOf(meter);
  return { integratedLufs, truePeakDbtp };
};

/** A meter can be finished once only. */
const finished = new WeakMap<SoundMeter, TagFigures>();
function figuresOf(meter: SoundMeter): TagFigures {
  const figures = finished.get(meter) ?? meter.finish();
  finished.set(meter, figures);
  return figures;
}

function fadeOut(
  block: { left: Float64Array; right: Float64Array; frames: number; frame: number },
  endFrame: number,
  fadeFrames: number,
): void {
  for (let n = Math.max(0, endFrame - fadeFrames - block.frame); n < block.frames; n++) {
    const left = (endFrame - block.frame - n) / fadeFrames;
    const gain = 0.5 - 0.5 * Math.cos(Math.PI * Math.max(0, left));
    block.left[n] *= gain;
    block.right[n] *= gain;
  }
}

/** Writes a stereo sound as a file of the wanted kind. @param meterNow the meter that the sound goes by */
async function writeSound(
  { file = 'wav', format, song, tags }: RenderTask,
  out: string,
  blocks: Iterable<SoundBlock>,
  meterNow: () => SoundMeter,
): Promise<Written> {
  const shape = { channels: 2, rateHz: song.rateHz, format };
  if (file === 'wav') {
    let isBegun = false;
    return writeWav(out, shape, blocks, () => {
      if (!tags) return new Uint8Array();
      const chunks = wavTags(tags, isBegun ? figuresOf(meterNow()) : null);
      isBegun = true;
      return chunks;
    });
  }
  const said = tags ?? { title: '', song: song.title, part: '', why: '', changedAt: '', startFrame: 0 };
  if (file === 'mp3') return writeMp3(out, shape, blocks, said);
  return writeFlac(out, { ...shape, format: format === '16' ? '16' : '24' }, blocks, said);
}

/** Passes through the limiter, each nearer to the target. */
const TRIES = 8;
/** What is missing by more than this will not be reached by pushing harder. */
const MOST_PUSHED_LU = 6;

/** Renders a mix, measures it, and writes it at the gain, or through the limiter, that brings it to its target. */
async function renderToLoudness(
  task: RenderTask,
  target: LoudnessTarget,
  blocks: () => Iterable<SoundBlock>,
  meter: SoundMeter,
  report: Report,
): Promise<Omit<RenderedFile, 'tailFrames'>> {
  const { song, out } = task;
  const floats = `${out}.float`;
  try {
    await FloatFile.write(floats, blocks());
    const kept = new FloatFile(floats, 2);
    try {
      const before = figuresOf(meter);
      let gainDb = targetGainDb(before, target);
      if (target.by === 'limiter' && before.integratedLufs !== null)
        for (let i = 0; i < TRIES; i++) {
          report('bringing it to its loudness', i / TRIES);
          const heard = passOf(kept, song.rateHz, gainDb, target).run();
          const missing = target.lufs - (heard.integratedLufs ?? target.lufs);
          if (Math.abs(missing) <= NEAR_LU || missing > MOST_PUSHED_LU) break;
          gainDb += missing;
        }
      report('writing', 0);
      const last = passOf(kept, song.rateHz, gainDb, target);
      const written = await writeSound(task, out, last.blocks(), () => last.meter);
      const reached = told(last.meter);
      const remark = targetRemark(reached, target, -last.mostLimitedDb());
      return { ...written, ...reached, ...(remark && { remark }) };
    } finally {
      kept.close();
    }
  } finally {
    await discard(floats);
  }
}

/** One pass of a sound through a gain, and a limiter where the target has one; measured as it goes by. */
function passOf(kept: FloatFile, rateHz: number, gainDb: number, target: LoudnessTarget) {
  const meter = new SoundMeter(rateHz, 2);
  let limitedDb = 0;
  const limiter =
    target.by === 'limiter'
      ? makeRunner({ ...(newProcessor('limiter', 'target') as Limiter), ceilingDb: workingCeiling(target) }, rateHz)
      : null;
  function* blocks(): Generator<SoundBlock> {
    const gain = 10 ** (gainDb / 20);
    const sides = [new Float64Array(MAX_BLOCK), new Float64Array(MAX_BLOCK)];
    const late = limiter?.latencyFrames ?? 0;
    for (let frame = 0; frame < kept.frames + late;) {
      const until = frame < late ? late : kept.frames + late;
      const frames = Math.min(MAX_BLOCK, until - frame);
      kept.read(frame, frames, sides);
      for (const side of sides) for (let n = 0; n < frames; n++) side[n] *= gain;
      limiter?.process(sides[0], sides[1], sides[0], sides[1], frames);
      limitedDb = Math.min(limitedDb, limiter?.gainDb ?? 0);
      if (frame >= late) {
        meter.push(sides.map((side) => side.subarray(0, frames)));
        yield { samples: sides, frames };
      }
      frame += frames;
    }
  }
  return {
    meter,
    blocks,
    mostLimitedDb: () => limitedDb,
    run: () => {
      for (const _ of blocks());
      return figuresOf(meter);
    },
  };
}
