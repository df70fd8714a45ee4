/**
 * `npm run bench [-- filters|design|engine|chains|apply|resample|render|analysis|mix|changes|songs|passages|worklet|drag] [figures]`: the benchmarks, each alone or all one
 * after the other; what figures mean, the benchmark says. Only by name: bundle, finding, fit, pages, queue, size, kill, fuzz, hands, room, grid, suspects, faults, suspect-profiles.
 */
import { ensureBuild, ensureDependencies, ensureRecordings, ensureTestPrograms, root, run } from './setup.mjs';

ensureDependencies();
ensureTestPrograms();
await ensureBuild();
const { bundleForBrowser, bundleForNode } = await import('./bundle.mjs');
await bundleForBrowser('bench/worklet/processor.ts', 'build/run/bench-worklet.js');
await bundleForNode('bench/analyse-files.ts', 'build/run/analyse-files.mjs');
const given = process.argv.slice(2);
const isFigure = (word) => /^\d+$/.test(word);
const chosen = given.filter((word) => !isFigure(word));
/** Those that listen to real recordings. */
const ON_RECORDINGS = ['suspects', 'faults', 'suspect-profiles', 'room', 'grid', 'hands'];
if (chosen.some((name) => ON_RECORDINGS.includes(name))) ensureRecordings();
for (const name of chosen.length > 0
  ? chosen
  : [
      'filters',
      'design',
      'engine',
      'chains',
      'apply',
      'resample',
      'render',
      'analysis',
      'mix',
      'changes',
      'songs',
      'passages',
      'worklet',
      'drag',
    ]) {
  run(process.execPath, ['scripts/run.mjs', `bench/${name}.ts`, ...given.filter(isFigure)], { cwd: root });
  console.log();
}
