/** `npm test`: sets up what is missing, runs every test, and prints the sum as its last line. */
import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { ensureBuild, ensureDependencies, ensureTestPrograms, root } from './setup.mjs';

ensureDependencies();
ensureTestPrograms();
await ensureBuild();

const results = path.join(root, 'build', 'test-results');
rmSync(results, { recursive: true, force: true });
mkdirSync(results, { recursive: true });
const at = (name) => path.join(results, name);
const npx = (args, env = {}) =>
  spawnSync('npx', args, { cwd: root, stdio: ['ignore', 'inherit', 'inherit'], env: { ...process.env, ...env } })
    .status;

const unit = npx(['jest', '--json', `--outputFile=${at('unit.json')}`]);
const real = npx(['playwright', 'test'], { PLAYWRIGHT_JSON_OUTPUT_FILE: at('e2e.json') });

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
const playwright = counted('e2e.json', ({ stats }) => ({
  passed: stats.expected + stats.flaky,
  failed: stats.unexpected + stats.skipped,
}));
const failed = jest.failed + playwright.failed;
console.log(`${jest.passed + playwright.passed} passed, ${failed} failed`);
process.exit(failed > 0 || unit !== 0 || real !== 0 ? 1 : 0);
