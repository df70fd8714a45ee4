/** Compiles the inner loops of the engine, of processors, of what is measured, of other sample rates, and of how samples are packed to WebAssembly. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import asc from 'assemblyscript/asc';
import { root } from './setup.mjs';

/**
 * Folder of each kernel, the name of its text, and its memory in pages of 64 KiB: that of the engine is room for about 130 000 sections. What is never
 * used costs nothing.
 */
export const KERNELS = {
  engine: { folder: 'core/engine/kernel', text: 'KERNEL_BASE64', pages: 1024 },
  measure: { folder: 'core/measure/kernel', text: 'MEASURE_KERNEL_BASE64', pages: 512 },
  packing: { folder: 'core/engine/packing', text: 'PACKING_KERNEL_BASE64', pages: 16 },
  resample: { folder: 'core/resample/kernel', text: 'RESAMPLE_KERNEL_BASE64', pages: 256 },
  processors: { folder: 'core/processors/kernel', text: 'PROCESSORS_KERNEL_BASE64', pages: 1024 },
};

/** @param name of a kernel @returns the bytes of its module */
export async function compileKernel(name) {
  const { folder, pages } = KERNELS[name];
  const made = mkdtempSync(path.join(os.tmpdir(), 'orvid-kernel-'));
  const out = path.join(made, 'kernel.wasm');
  const options = `-O3 --enable simd --runtime stub --noAssert --initialMemory ${pages} --maximumMemory ${pages}`;
  const source = path.join(root, folder, 'assembly', 'kernel.ts');
  try {
    const { error, stderr } = await asc.main([source, '--outFile', out, ...options.split(' ')]);
    if (error) throw new Error(stderr.toString());
    return readFileSync(out);
  } finally {
    rmSync(made, { recursive: true });
  }
}
