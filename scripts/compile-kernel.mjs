/** Compiles the engine's inner loops to WebAssembly. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import asc from 'assemblyscript/asc';
import { root } from './setup.mjs';

/** Memory of a kernel: 1024 pages of 64 KiB are room for about 130 000 sections. What is never used costs nothing. */
const PAGES = 1024;

/** @returns the bytes of the module */
export async function compileKernel() {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-kernel-'));
  const out = path.join(folder, 'kernel.wasm');
  const options = `-O3 --enable simd --runtime stub --noAssert --initialMemory ${PAGES} --maximumMemory ${PAGES}`;
  const source = path.join(root, 'core/engine/kernel/assembly/kernel.ts');
  try {
    const { error, stderr } = await asc.main([source, '--outFile', out, ...options.split(' ')]);
    if (error) throw new Error(stderr.toString());
    return readFileSync(out);
  } finally {
    rmSync(folder, { recursive: true });
  }
}
