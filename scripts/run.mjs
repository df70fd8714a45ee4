/** Runs one TypeScript program of the project: `node scripts/run.mjs bench/apply.ts …`. */
import path from 'node:path';
import { ensureDependencies, root, run } from './setup.mjs';

ensureDependencies();
const [entry, ...args] = process.argv.slice(2);
const { bundleForNode } = await import('./bundle.mjs');
const outfile = path.join(root, 'build', 'run', `${path.basename(entry, '.ts')}.mjs`);
await bundleForNode(entry, outfile);
run(process.execPath, [outfile, ...args]);
