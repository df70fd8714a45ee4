/**
 * `npm run mutate -- core|ui [count] [seed]`: changes single lines, chosen by a seed, one at a time, and tells how many changes the unit
 * tests notice. Of `core` the tests beside the code are run, of `ui` those of the page. The file is put back after each.
 */
import { execFileSync, spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { root } from './setup.mjs';

const [wing = 'core', count = '20', seed = '1'] = process.argv.slice(2);

/** A generator of numbers from 0 to 1 that is the same for a seed (mulberry32). */
function numbersOf(start) {
  let state = start;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

const CHANGES = [
  [/ === /, ' !== '],
  [/ !== /, ' === '],
  [/ <= /, ' > '],
  [/ >= /, ' < '],
  [/ && /, ' || '],
  [/ \|\| /, ' && '],
  [/ \+ /, ' - '],
  [/ - /, ' + '],
  [/ \* /, ' / '],
  [/\btrue\b/, 'false'],
  [/\bfalse\b/, 'true'],
  [/(?<=[ ([-])([1-9]\d*)(?=[,;) \]])/, (figure) => String(Number(figure) + 1)],
];
const isCode = (line) => !/^\s*(\/?\*|\/\/|import|export \*|@)/.test(line) && !/^\s*(it|test)\(/.test(line);

const files = execFileSync('git', ['ls-files', wing], { cwd: root, encoding: 'utf8' })
  .split('\n')
  .filter((file) => /\.tsx?$/.test(file) && !/\.test\.tsx?$|\/testing|\.d\.ts$|kernel-bytes/.test(file));
const places = files.flatMap((file) =>
  readFileSync(path.join(root, file), 'utf8')
    .split('\n')
    .flatMap((line, i) =>
      isCode(line) ? CHANGES.filter(([from]) => from.test(line)).map((change) => ({ file, i, change })) : [],
    ),
);

const next = numbersOf(Number(seed));
let noticed = 0;
for (let n = 1; n <= Number(count); n++) {
  const { file, i, change } = places.splice(Math.floor(next() * places.length), 1)[0];
  const before = readFileSync(path.join(root, file), 'utf8');
  const lines = before.split('\n');
  const changed = lines[i].replace(...change);
  try {
    writeFileSync(path.join(root, file), lines.with(i, changed).join('\n'));
    const { status } = spawnSync(
      'npx',
      [
        'jest',
        '--silent',
        '--bail',
        '--passWithNoTests',
        '--testPathPatterns',
        `^${root}/${wing}/`,
        '--findRelatedTests',
        file,
      ],
      { cwd: root, stdio: 'ignore' },
    );
    if (status !== 0) noticed++;
    console.log(`${status === 0 ? 'not noticed' : 'noticed    '} ${file}:${i + 1} ${changed.trim()}`);
  } finally {
    writeFileSync(path.join(root, file), before);
  }
}
console.log(`${noticed} of ${count} noticed`);
