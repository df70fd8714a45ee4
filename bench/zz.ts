import { writeFileSync } from 'node:fs';
import { ResonanceFinder } from '@/core/suspects/resonance';
import { bellsFor } from './recordings/faults';
import { RATE, recordings, samplesOf } from './recordings/recordings';
const [part, out] = process.argv.slice(2);
const find = (samples: Float32Array) => {
  const finder = new ResonanceFinder(RATE, samples.length);
  finder.push([samples]);
  return finder.candidates().map(({ frequencyHz, evidence, q, gainDb }) => ({ frequencyHz, evidence, q, gainDb }));
};
const cases = recordings()
  .filter((recording) => recording.part === part)
  .flatMap((recording) => {
    const samples = samplesOf(recording);
    return [
      { name: recording.name, bell: null as unknown, found: find(samples) },
      ...bellsFor(recording.name, samples, 4).map(({ bell, planted }) => ({ name: recording.name, bell, found: find(planted) })),
    ];
  });
writeFileSync(out, JSON.stringify(cases));
