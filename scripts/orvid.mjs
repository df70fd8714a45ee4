/** `npm run --silent orvid -- COMMAND …`: the command line. Paths are those of the folder it was called from. */
import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { ensureBundles, ensureDependencies, root } from './setup.mjs';

ensureDependencies();
await ensureBundles();
const result = spawnSync(process.execPath, [path.join(root, 'build/cli.mjs'), ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit',
});
process.exit(result.status ?? 1);
