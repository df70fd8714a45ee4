import { MAX_BLOCK, type DesignedKernel, type MixRange } from '@/core/engine';
import type { Song } from '@/core/song';
import type { PageFile } from '../audio/page-file';
import type { HeardStrips } from './strip-meters';

/** What a thread that runs some groups of a song's tracks is given. */
export interface GroupTask {
  song: Song;
  kernels: DesignedKernel[];
  pageFiles: Record<string, PageFile>;
  range: MixRange;
  /** Recordings fade out after it. */
  soundEndFrame?: number;
  /** The groups that it runs, of `trackGroups`. */
  groups: number[];
  /** Strips to be measured where they are among its tracks. */
  heard?: HeardStrips;
  memory: GroupMemory;
}

/** Blocks of a group that may wait to be added up. */
export const SLOTS = 64;
/** Places of the state: blocks that are ready, blocks that were taken, 1 after a failure, 1 when what was measured is told. */
export const READY = 0;
export const TAKEN = 1;
export const FAILED = 2;
export const TOLD = 3;
const STATES = 4;
const MESSAGE_BYTES = 2048;
/** Room for the figures of a strip. */
const FIGURES_BYTES = 1024;

/** Memory that a thread shares with the one that adds up: a ring of blocks, how far it is filled, and what went wrong. */
export interface GroupMemory {
  sums: number;
  groups: number;
  state: SharedArrayBuffer;
  message: SharedArrayBuffer;
  /** What was measured, as JSON. */
  figures: SharedArrayBuffer;
  samples: SharedArrayBuffer;
}

/** @param sums arrays of a group in each block @param measured how many strips are measured at most */
export function makeGroupMemory(groups: number, sums: number, measured: number): GroupMemory {
  return {
    sums,
    groups,
    state: new SharedArrayBuffer(STATES * 4),
    message: new SharedArrayBuffer(MESSAGE_BYTES),
    figures: new SharedArrayBuffer(measured * FIGURES_BYTES),
    samples: new SharedArrayBuffer(SLOTS * groups * sums * MAX_BLOCK * 8),
  };
}

/** The arrays of each group in each slot. */
export function slotArrays({ sums, groups, samples }: GroupMemory): Float64Array[][][] {
  return Array.from({ length: SLOTS }, (_, slot) =>
    Array.from({ length: groups }, (__, group) =>
      Array.from(
        { length: sums },
        (___, sum) => new Float64Array(samples, ((slot * groups + group) * sums + sum) * MAX_BLOCK * 8, MAX_BLOCK),
      ),
    ),
  );
}

export function writeJson(memory: SharedArrayBuffer, value: unknown): void {
  new TextEncoder().encodeInto(JSON.stringify(value), new Uint8Array(memory));
}

export function readJson<T>(memory: SharedArrayBuffer): T {
  return JSON.parse(new TextDecoder().decode(new Uint8Array(memory).slice()).replace(/\0+$/, '')) as T;
}
