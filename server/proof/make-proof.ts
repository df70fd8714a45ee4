import { open, readFile } from 'node:fs/promises';
import { SoundMeter } from '@/core/measure';
import { partOf } from '@/core/mix';
import { PROOF_PEAKS, proofPage, soundElement, type Proof, type ProofItem, type ProofKbps } from '@/core/proof';
import { MASTER_ID, type Chain, type Song } from '@/core/song';
import { discard } from '../audio/store';
import type { PageFile } from '../audio/page-file';
import { mixBlocks } from '../render/render-song';
import { writeMp3 } from '../render/write-mp3';
import type { SoundBlock } from '../render/write-wav';

/** What a proof is made of. */
export interface ProofTask {
  song: Song;
  pageFiles: Record<string, PageFile>;
  /** Where it is written; it must not exist. */
  out: string;
  /** The page, but for its sounds: peaks and gains of its items are filled in. */
  proof: Proof;
  range: { startFrame: number; endFrame: number };
  kbps: ProofKbps;
  player: string;
}

/** Rooms and repeats stay: they belong to the sound that was there before anything was shaped. */
const stays = ({ kind }: Chain[number]) => kind === 'reverb' || kind === 'echo';

/** The song without what was done to it: levels and positions as they are, nothing shaped, no passages. */
export function unshaped(song: Song): Song {
  const plain = <T extends { chain: Chain }>(strip: T): T => ({ ...strip, chain: strip.chain.filter(stays) });
  return {
    ...song,
    tracks: song.tracks.map(plain),
    buses: song.buses.map(plain),
    master: plain(song.master),
    passages: [],
  };
}

/** Largest values of equal stretches. */
class PeakRow {
  readonly peaks = new Float64Array(PROOF_PEAKS);
  private at = 0;

  constructor(private readonly frames: number) {}

  push(sides: readonly ArrayLike<number>[], frames: number): void {
    for (let n = 0; n < frames; n++, this.at++) {
      const column = Math.min(PROOF_PEAKS - 1, Math.floor((this.at * PROOF_PEAKS) / this.frames));
      for (const side of sides) this.peaks[column] = Math.max(this.peaks[column], Math.abs(side[n]));
    }
  }
}

interface MadeSide {
  lufs: number | null;
  peaks: number[];
  mp3: Buffer;
}

async function makeSide(
  { song, pageFiles, range, kbps, out }: ProofTask,
  of: Song,
  tell: (progress: number) => void,
): Promise<MadeSide> {
  const frames = range.endFrame - range.startFrame;
  const meter = new SoundMeter(song.rateHz, 2);
  const row = new PeakRow(frames);
  function* blocks(): Generator<SoundBlock> {
    for (const { left, right, frames: count, frame } of mixBlocks({ song: of, pageFiles }, range)) {
      const samples = [left, right];
      meter.push(samples.map((side) => side.subarray(0, count)));
      row.push(samples, count);
      yield { samples, frames: count };
      tell((frame + count - range.startFrame) / frames);
    }
  }
  const file = `${out}.mp3`;
  try {
    const tags = { title: '', song: song.title, part: '', why: '', changedAt: '', startFrame: 0 };
    await writeMp3(file, { channels: 2, rateHz: song.rateHz }, blocks(), tags, kbps);
    return {
      lufs: meter.finish().integratedLufs,
      peaks: [...row.peaks].map((peak) => Math.round(peak * 1000) / 1000),
      mp3: await readFile(file),
    };
  } finally {
    await discard(file);
  }
}

/** The gains that bring both sides to the softer one's loudness. */
function matchedGains(before: number | null, after: number | null): { before: number; after: number } {
  if (before === null || after === null) return { before: 0, after: 0 };
  const least = Math.min(before, after);
  return { before: least - before, after: least - after };
}

/** Renders both sides of everything that is in a proof, and writes it. */
export async function makeProof(task: ProofTask, report: (step: string, progress: number) => void): Promise<void> {
  const { song, proof, out, player } = task;
  const items: ProofItem[] = [];
  const sounds: [itemId: string, before: Buffer, after: Buffer][] = [];
  for (const [i, item] of proof.items.entries()) {
    const of = (whole: Song) => (item.id === MASTER_ID ? whole : partOf(whole, item.id));
    const tell = (half: number) => (progress: number) =>
      report(`rendering ${item.name}`, (i + (half + progress) / 2) / proof.items.length);
    const before = await makeSide(task, of(unshaped(song)), tell(0));
    const after = await makeSide(task, of(song), tell(1));
    const gains = matchedGains(before.lufs, after.lufs);
    items.push({
      ...item,
      before: { gainDb: gains.before, peaks: before.peaks },
      after: { gainDb: gains.after, peaks: after.peaks },
    });
    sounds.push([item.id, before.mp3, after.mp3]);
  }
  report('writing', 0.99);
  const { head, foot } = proofPage({ ...proof, items }, player);
  const file = await open(out, 'wx');
  try {
    await file.write(head);
    for (const [itemId, before, after] of sounds) {
      await file.write(soundElement(itemId, 'before', before.toString('base64')));
      await file.write(soundElement(itemId, 'after', after.toString('base64')));
    }
    await file.write(foot);
    await file.sync();
  } finally {
    await file.close();
  }
}
