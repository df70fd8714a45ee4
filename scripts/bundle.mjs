/** Bundles what runs outside the framework: the audio thread and the programs of Node. */
import { rmSync } from 'node:fs';
import path from 'node:path';
import { build } from 'esbuild';
import { root } from './setup.mjs';

const shared = { absWorkingDir: root, bundle: true, sourcemap: true, logLevel: 'error', alias: { '@': root } };

/** Taken in, as far as it is used: loaded from its own many files it takes longer than all else that a program begins with. */
const TAKEN_IN = { zod: path.join(root, 'node_modules/zod/index.js') };

/** A TypeScript program for Node; other packages are left outside, and what it imports when it needs it is kept apart. */
export function bundleForNode(entry, outfile) {
  return build({
    ...shared,
    alias: { ...shared.alias, ...TAKEN_IN },
    entryPoints: [{ in: entry, out: path.basename(outfile, '.mjs') }],
    outdir: path.dirname(outfile),
    outExtension: { '.js': '.mjs' },
    chunkNames: `${path.basename(outfile, '.mjs')}-[name]-[hash]`,
    splitting: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    packages: 'external',
  });
}

/** A script for a thread of its own in the browser, or for a page of its own. */
export function bundleForBrowser(entry, outfile, sourcemap = true) {
  return build({
    ...shared,
    sourcemap,
    entryPoints: [entry],
    outfile,
    platform: 'browser',
    format: 'iife',
    target: 'es2022',
    minify: true,
  });
}

export async function bundle() {
  rmSync(path.join(root, 'build'), { recursive: true, force: true });
  await Promise.all([
    bundleForBrowser('audio/worklet/main.ts', 'public/audio/worklet.js'),
    bundleForBrowser('workers/live-spectra.ts', 'public/audio/live-spectra.js'),
    bundleForBrowser('workers/live-meters.ts', 'public/audio/live-meters.js'),
    bundleForBrowser('workers/feeder.ts', 'public/audio/feeder.js'),
    bundleForBrowser('workers/mix.ts', 'public/audio/mix.js'),
    bundleForBrowser('workers/linear-phase.ts', 'public/audio/linear-phase.js'),
    bundleForBrowser('workers/observer.ts', 'public/audio/observer.js'),
    bundleForBrowser('proof/player.ts', 'build/proof-player.js', false),
    bundleForNode('server/workers/main.ts', path.join('build', 'server-worker.mjs')),
    bundleForNode('server/render/group-worker.ts', path.join('build', 'render-groups.mjs')),
    bundleForNode('cli/main.ts', path.join('build', 'cli.mjs')),
    bundleForNode('demo/main.ts', path.join('build', 'demo.mjs')),
  ]);
}
