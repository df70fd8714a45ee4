/** `npm run bench [-- design|engine|apply|render|drag]`: the benchmarks, each alone or all one after the other. */
import { ensureBuild, ensureDependencies, ensureTestPrograms, root, run } from './setup.mjs';

ensureDependencies();
ensureTestPrograms();
await ensureBuild();
const chosen = process.argv.slice(2);
for (const name of chosen.length > 0 ? chosen : ['design', 'engine', 'apply', 'render', 'drag']) {
  run(process.execPath, ['scripts/run.mjs', `bench/${name}.ts`], { cwd: root });
  console.log();
}
