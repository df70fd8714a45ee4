/** `npm run bench [-- filters|design|engine|apply|render|analysis|mix|worklet|drag]`: the benchmarks, each alone or all one after the other. */
import { ensureBuild, ensureDependencies, ensureTestPrograms, root, run } from './setup.mjs';

ensureDependencies();
ensureTestPrograms();
await ensureBuild();
const { bundleForBrowser, bundleForNode } = await import('./bundle.mjs');
await bundleForBrowser('bench/worklet/processor.ts', 'build/run/bench-worklet.js');
await bundleForNode('bench/analyse-files.ts', 'build/run/analyse-files.mjs');
const chosen = process.argv.slice(2);
for (const name of chosen.length > 0
  ? chosen
  : ['filters', 'design', 'engine', 'apply', 'render', 'analysis', 'mix', 'worklet', 'drag']) {
  run(process.execPath, ['scripts/run.mjs', `bench/${name}.ts`], { cwd: root });
  console.log();
}
