/** What a change touches: which files differ, and which tests of the interface look at them. */
import { execFileSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import path from 'node:path';
import { root } from './setup.mjs';

const git = (...args) => execFileSync('git', args, { cwd: root, encoding: 'utf8' }).split('\n').filter(Boolean);

/** Files that differ from a state of the project, new ones among them. */
export function changedFiles(since) {
  return [...git('diff', '--name-only', since), ...git('ls-files', '--others', '--exclude-standard')];
}

/** Which tests look at what: beginnings of paths. What is in none of them is looked at by all. */
const LOOKED_AT_BY = {
  'by-ear': [
    'ui/work/probe/',
    'ui/work/earshot/',
    'ui/work/compare/',
    'ui/work/company/',
    'ui/window/sound/',
    'audio/',
  ],
  engine: ['audio/', 'core/engine/', 'core/filters/'],
  filters: ['ui/places/bench/', 'core/filters/', 'core/engine/', 'workers/linear-phase'],
  hands: ['ui/work/', 'ui/places/palette/', 'server/presets/'],
  listening: ['audio/', 'ui/window/sound/', 'ui/places/bar/', 'ui/places/strip/', 'ui/work/transport/'],
  mix: [
    'core/mix/',
    'core/suspects/',
    'ui/work/claims/',
    'ui/work/ends/',
    'ui/work/overlaps/',
    'ui/work/suspects/',
    'ui/work/image/',
    'ui/pages/score/',
    'workers/mix',
  ],
  recordings: ['ui/work/recordings/', 'server/import/', 'server/audio/'],
  rendering: ['ui/work/render/', 'server/render/', 'core/engine/', 'cli/'],
  safety: ['server/', 'ui/window/outbox/', 'proxy.ts'],
  shaping: [
    'ui/places/bench/',
    'ui/places/register/',
    'ui/places/ruler/',
    'ui/work/ends/',
    'ui/work/bands/',
    'ui/kit/',
  ],
  songs: ['ui/pages/', 'ui/kit/', 'app/'],
  busy: ['ui/'],
  'lost-sound': ['audio/', 'server/audio/', 'workers/feeder', 'ui/window/outbox/'],
  'real-size': ['audio/', 'ui/places/register/', 'ui/window/sound/', 'workers/feeder'],
  breaks: ['ui/window/', 'ui/work/recordings/', 'ui/work/render/', 'audio/', 'server/jobs/'],
};
/** Changes here are no business of the interface. */
const NOT_LOOKED_AT = ['docs/', 'bench/', 'README.md', '.ci/'];

export function specsTouchedBy(files) {
  const all = readdirSync(path.join(root, 'e2e')).filter((file) => file.endsWith('.spec.ts'));
  const touched = new Set();
  for (const file of files) {
    if (/\.test\.tsx?$/.test(file) || NOT_LOOKED_AT.some((start) => file.startsWith(start))) continue;
    const lookers = Object.entries(LOOKED_AT_BY).filter(([, starts]) => starts.some((start) => file.startsWith(start)));
    if (file.startsWith('e2e/') && file.endsWith('.spec.ts')) touched.add(path.basename(file));
    else if (lookers.length === 0) return all;
    else lookers.forEach(([name]) => touched.add(`${name}.spec.ts`));
  }
  return all.filter((file) => touched.has(file));
}
