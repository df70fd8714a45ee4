/** `npm run kernel`: compiles the engine's inner loops and writes them as text that every thread can load. */
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { compileKernel } from './compile-kernel.mjs';
import { root } from './setup.mjs';

const lines = (await compileKernel()).toString('base64').match(/.{1,110}/g);
writeFileSync(
  path.join(root, 'core/engine/kernel/kernel-bytes.ts'),
  `/** \`assembly/kernel.ts\`, compiled: written by \`npm run kernel\`, held against its source by a test. */
export const KERNEL_BASE64 =
${lines.map((line) => `  '${line}'`).join(' +\n')};
`,
);
