/** `npm run demo`: sets up what is missing and serves the application with the demo song open. */
import { spawn } from 'node:child_process';
import net from 'node:net';
import { ensureBuild, ensureDependencies, root, run } from './setup.mjs';

const port = process.env.ORVID_PORT ?? '4870';
const url = `http://localhost:${port}`;
if (!/^[1-9]\d{0,4}$/.test(port) || Number(port) > 65535) {
  console.error(`ORVID_PORT=${port}: a port is a whole number from 1 to 65535.`);
  process.exit(1);
}

const isTaken = await new Promise((answer) => {
  const socket = net.connect({ port: Number(port), host: '127.0.0.1' });
  socket.once('connect', () => answer(true)).once('error', () => answer(false));
  socket.unref();
});
if (isTaken) {
  // Nothing is touched: the data folder may be in use by what runs there.
  const isOrvid = await fetch(`${url}/api/songs`, { signal: AbortSignal.timeout(5000) }).then(
    async (response) => Array.isArray((await response.json()).songs),
    () => false,
  );
  console.log(
    isOrvid
      ? `Orvid runs already: ${url}`
      : `Port ${port} is taken by another program. ORVID_PORT=… npm run demo takes another one.`,
  );
  process.exit(isOrvid ? 0 : 1);
}

ensureDependencies();
await ensureBuild();
run(process.execPath, ['build/demo.mjs']);

console.log(`Orvid is at ${url} — Ctrl+C ends it.`);
// In a process group of its own: of Ctrl+C in a terminal it hears once, from here.
const server = spawn(
  process.execPath,
  ['node_modules/next/dist/bin/next', 'start', '--port', port, '--hostname', '127.0.0.1'],
  {
    cwd: root,
    detached: true,
    stdio: ['ignore', 'ignore', 'inherit'],
    env: {
      ...process.env,
      NEXT_TELEMETRY_DISABLED: '1',
      NEXT_MANUAL_SIG_HANDLE: 'true',
      ORVID_START_SONG: process.env.ORVID_START_SONG ?? 'lantern-ferry',
    },
  },
);
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.on(signal, () => server.kill(signal === 'SIGHUP' ? 'SIGTERM' : signal));
server.on('exit', (code) => process.exit(code ?? 0));
