import { SuspectFinder } from '@/core/suspects/finder';
import { execFileSync } from 'node:child_process';
const raw = execFileSync('ffmpeg', ['-v', 'error', '-stream_loop', '-1', '-i', '/usr/share/sonic-pi/samples/ambi_piano.flac', '-stream_loop','-1','-i','/usr/share/sonic-pi/samples/loop_amen_full.flac','-filter_complex','amix=inputs=2', '-t', process.argv[2] ?? '240', '-ac', '1', '-ar', '48000', '-f', 'f32le', '-'], { maxBuffer: 1 << 29 });
console.log(raw.length / 4 / 48000, process.argv);
const x = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
for (let k = 0; k < 2; k++) {
  const t = performance.now(), f = new SuspectFinder(48000, x.length);
  for (let n = 0; n + 65536 <= x.length; n += 65536) f.push([x.subarray(n, n + 65536)]);
  const a = performance.now();
  const s = f.finish();
  console.log('push', (a - t).toFixed(0), 'finish', (performance.now() - a).toFixed(0), s.map((q) => `${q.kind} ${q.frequencyHz.toFixed(1)} ${q.sureness.toFixed(3)}`).join(', '));
}
