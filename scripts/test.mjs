/**
 * `npm test`: sets up what is missing, runs every test, and prints the sum as its last line. `npm test -- --changed` runs what the changes
 * since the last commit touch; `npm test -- --changed REF` those since another state.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { changedFiles, specsTouchedBy } from './changed.mjs';
import { root } from './setup.mjs';

const [flag, since = 'HEAD'] = process.argv.slice(2);
if (flag !== undefined && flag !== '--changed') {
  console.error(`“${flag}” is not known: npm test, or npm test -- --changed [REF].`);
  process.exit(2);
}
const isChangedOnly = flag === '--changed';

await import('./prepare-tests.mjs');

const results = path.join(root, 'build', 'test-results');
rmSync(results, { recursive: true, force: true });
mkdirSync(results, { recursive: true });
const at = (name) => path.join(results, name);
const npx = (args, env = {}) =>
  spawnSync('npx', args, { cwd: root, stdio: ['ignore', 'inherit', 'inherit'], env: { ...process.env, ...env } })
    .status;

const specs = isChangedOnly ? specsTouchedBy(changedFiles(since)) : [];
const unit = npx([
  'jest',
  '--json',
  `--outputFile=${at('unit.json')}`,
  ...(isChangedOnly ? [`--changedSince=${since}`, '--passWithNoTests'] : []),
]);
const hasSpecs = !isChangedOnly || specs.length > 0;
const real = hasSpecs ? npx(['playwright', 'test', ...specs], { PLAYWRIGHT_JSON_OUTPUT_FILE: at('e2e.json') }) : 0;

/** Reads a report; one that is missing counts as a failure of its own. */
function counted(file, count) {
  try {
    return count(JSON.parse(readFileSync(at(file), 'utf8')));
  } catch {
    return { passed: 0, failed: 1 };
  }
}
const jest = counted('unit.json', (report) => ({
  passed: report.numPassedTests,
  failed: report.numFailedTests + report.numRuntimeErrorTestSuites,
}));
const playwright = hasSpecs
  ? counted('e2e.json', ({ stats }) => ({
      passed: stats.expected + stats.flaky,
      flaky: stats.flaky,
      failed: stats.unexpected + stats.skipped,
    }))
  : { passed: 0, flaky: 0, failed: 0 };

/** What the page showed where a browser test failed, as far as it says why. */
const SHOWN_LINES = 120;
const failures = path.join(root, 'test-results');
if (hasSpecs && existsSync(failures))
  for (const name of readdirSync(failures)) {
    const shown = path.join(failures, name, 'error-context.md');
    if (!existsSync(shown)) continue;
    console.log(`\n${name}, when it failed:`);
    console.log(readFileSync(shown, 'utf8').split('\n').slice(0, SHOWN_LINES).join('\n'));
  }
if (playwright.flaky > 0) console.log(`${playwright.flaky} of the passed only the second time`);
const failed = jest.failed + playwright.failed;
console.log(`${jest.passed + playwright.passed} passed, ${failed} failed`);
process.exit(failed > 0 || unit !== 0 || real !== 0 ? 1 : 0);
