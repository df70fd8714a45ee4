/** `npm run kernel`: compiles the inner loops and writes them as text that every thread can load. */
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { compileKernel, KERNELS } from './compile-kernel.mjs';
import { root } from './setup.mjs';

for (const [name, { folder, text }] of Object.entries(KERNELS)) {
  const lines = (await compileKernel(name)).toString('base64').match(/.{1,110}/g);
  writeFileSync(
    path.join(root, folder, 'kernel-bytes.ts'),
    `/** \`assembly/kernel.ts\`, compiled: written by \`npm run kernel\`, held against its source by a test. */
export const ${text} =
${lines.map((line) => `  '${line}'`).join(' +\n')};
`,
  );
}
