/** What the commands share: set-up that is done once and then recognised as done. Runs without node_modules. */
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const at = (...parts) => path.join(root, ...parts);

/** Runs a command in the project's folder; a failure ends this program with the command's code. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (result.error) throw result.error;
  if (result.status !== 0) process.exit(result.status ?? 1);
}

const stampFile = (name) => at('node_modules', `.orvid-${name}`);
const isStamped = (name, value) => existsSync(stampFile(name)) && readFileSync(stampFile(name), 'utf8') === value;
const stamp = (name, value) => writeFileSync(stampFile(name), value);

/** Installs the packages of package-lock.json, unless they are there. Messages go to standard error. */
export function ensureDependencies() {
  const lock = createHash('sha256')
    .update(readFileSync(at('package-lock.json')))
    .digest('hex');
  if (existsSync(at('node_modules')) && isStamped('dependencies', lock)) return;
  console.error('Installing packages …');
  run('npm', ['ci', '--include=dev', '--no-audit', '--no-fund', '--loglevel=error'], { stdio: ['ignore', 2, 2] });
  stamp('dependencies', lock);
}

const SOURCES = ['app', 'audio', 'cli', 'core', 'demo', 'proof', 'server', 'ui', 'workers'];
const CONFIGS = [
  'instrumentation.ts',
  'instrumentation-client.ts',
  'next.config.ts',
  'package-lock.json',
  'proxy.ts',
  'scripts/bundle.mjs',
  'scripts/no-words.cjs',
  'tsconfig.json',
];

function filesBelow(folder) {
  return readdirSync(at(folder), { withFileTypes: true, recursive: true })
    .filter((entry) => entry.isFile() && !/\.test\.tsx?$/.test(entry.name))
    .map((entry) => path.relative(root, path.join(entry.parentPath ?? entry.path, entry.name)));
}

/** A fingerprint of everything that is built from. */
function sourceHash() {
  const hash = createHash('sha256');
  for (const file of [...SOURCES.flatMap(filesBelow), ...CONFIGS.filter((file) => existsSync(at(file)))].sort()) {
    hash.update(file).update(readFileSync(at(file)));
  }
  return hash.digest('hex');
}

/** Bundles the audio thread, the server's worker thread, the command line and the demo, unless they are up to date. */
export async function ensureBundles() {
  const hash = sourceHash();
  if (existsSync(at('build/cli.mjs')) && isStamped('bundles', hash)) return;
  const { bundle } = await import('./bundle.mjs');
  await bundle();
  stamp('bundles', hash);
}

/** Builds the application, unless it is up to date. */
export async function ensureBuild() {
  await ensureBundles();
  const hash = sourceHash();
  if (existsSync(at('.next/BUILD_ID')) && isStamped('build', hash)) return;
  console.error('Building the application …');
  run('npx', ['next', 'build'], { stdio: ['ignore', 2, 2], env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' } });
  stamp('build', hash);
}

/** Where the demo song lies for the tests: they work on copies of it. */
export const DEMO_DATA = at('node_modules', '.orvid-demo-data');

/** Synthesises the demo song for the tests, unless it is there as it would be made now. */
export function ensureDemoData() {
  const hash = sourceHash();
  if (existsSync(DEMO_DATA) && isStamped('demo', hash)) return;
  console.error('Synthesising the demo song for the tests …');
  rmSync(DEMO_DATA, { recursive: true, force: true });
  run(process.execPath, [at('build', 'demo.mjs')], {
    stdio: ['ignore', 2, 2],
    env: { ...process.env, ORVID_DATA_DIR: DEMO_DATA },
  });
  stamp('demo', hash);
}

/** Installs Debian packages that a program in the list is missing for. */
export function ensureDebianPackages(wanted) {
  const missing = wanted.filter(({ file }) => !existsSync(file)).map(({ name }) => name);
  if (missing.length === 0) return;
  console.error(`Installing ${missing.join(', ')} …`);
  const isRoot = process.getuid?.() === 0;
  const apt = (...args) =>
    run(isRoot ? 'apt-get' : 'sudo', [...(isRoot ? [] : ['apt-get']), ...args], {
      stdio: ['ignore', 2, 2],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
  apt('update', '-qq');
  apt('install', '-y', '-qq', '--no-install-recommends', ...missing);
}

/** What the benchmarks on recordings need of Debian: songs, what plays them, and a voice. */
export function ensureRecordings() {
  ensureDebianPackages([
    { name: 'openttd-openmsx', file: '/usr/share/games/openttd/baseset/openmsx' },
    { name: 'fluidsynth', file: '/usr/bin/fluidsynth' },
    { name: 'fluid-soundfont-gm', file: '/usr/share/sounds/sf2/FluidR3_GM.sf2' },
    { name: 'timgm6mb-soundfont', file: '/usr/share/sounds/sf2/TimGM6mb.sf2' },
    { name: 'espeak-ng', file: '/usr/bin/espeak-ng' },
  ]);
}

/** What the tests need of Debian. The browser may be another one: ORVID_CHROMIUM. */
export function ensureTestPrograms() {
  ensureDebianPackages([
    { name: 'chromium', file: process.env.ORVID_CHROMIUM ?? '/usr/bin/chromium' },
    { name: 'ffmpeg', file: '/usr/bin/ffmpeg' },
    { name: 'flac', file: '/usr/bin/flac' },
    { name: 'sox', file: '/usr/bin/sox' },
    { name: 'time', file: '/usr/bin/time' },
    { name: 'unzip', file: '/usr/bin/unzip' },
    { name: 'poppler-utils', file: '/usr/bin/pdftotext' },
    { name: 'python3-scipy', file: '/usr/lib/python3/dist-packages/scipy/__init__.py' },
    { name: 'sonic-pi-samples', file: '/usr/share/sonic-pi/samples/ambi_choir.flac' },
  ]);
}
