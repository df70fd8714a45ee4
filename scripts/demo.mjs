/** `npm run demo`: sets up what is missing and serves the application with the demo song open. */
import { spawn } from 'node:child_process';
import { ensureBuild, ensureDependencies, root, run } from './setup.mjs';

const port = process.env.ORVID_PORT ?? '4870';

ensureDependencies();
await ensureBuild();
run(process.execPath, ['build/demo.mjs']);

console.log(`Orvid is at http://localhost:${port} — Ctrl+C ends it.`);
const server = spawn(
  process.execPath,
  ['node_modules/next/dist/bin/next', 'start', '--port', port, '--hostname', '127.0.0.1'],
  {
    cwd: root,
    stdio: ['ignore', 'ignore', 'inherit'],
    env: {
      ...process.env,
      NEXT_TELEMETRY_DISABLED: '1',
      ORVID_START_SONG: process.env.ORVID_START_SONG ?? 'lantern-ferry',
    },
  },
);
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.on('exit', (code) => process.exit(code ?? 0));
