import { performance } from 'node:perf_hooks';
import { SUSPECT_KINDS, type Suspect } from '@/core/suspects';
import { SuspectFinder } from '@/core/suspects/finder';
import { LEAST_EVIDENCE, ResonanceFinder, surenessOf, type FoundResonance } from '@/core/suspects/resonance';
import { bellsFor, type PlantedBell } from './recordings/faults';
import { RATE, recordings, samplesOf, type Recording } from './recordings/recordings';
import { median, table } from './support';

/**
 * How well resonances are found: narrow bells are planted by seed into recordings of Debian packages, in the part that nothing was set on.
 * `suspects [N]`: every Nth recording, 1 for all of them. `suspects N 0` goes through the part that the thresholds are set on, and says
 * what they should be. By name only, since it takes minutes.
 */
const [every = 4, isReport = 1] = process.argv.slice(2).map(Number);
const part: Recording['part'] = isReport ? 'report' : 'calibration';
const PLANTED = 4;
const AMONG = 6;

interface Case {
  recording: Recording;
  bell: PlantedBell | null;
  found: FoundResonance[];
  /** All that is found in a clean one. */
  suspects: Suspect[];
}

const times: number[] = [];
function find(samples: Float32Array): FoundResonance[] {
  const began = performance.now();
  const finder = new ResonanceFinder(RATE, samples.length);
  finder.push([samples]);
  const found = finder.candidates();
  times.push((performance.now() - began) / 1000);
  return found;
}

function suspectsOf(samples: Float32Array): Suspect[] {
  const finder = new SuspectFinder(RATE, samples.length);
  finder.push([samples]);
  return finder.finish();
}

const cases = recordings()
  .filter((recording) => recording.part === part)
  .filter((_, i) => i % every === 0)
  .flatMap((recording): Case[] => {
    const samples = samplesOf(recording);
    return [
      { recording, bell: null, found: find(samples), suspects: suspectsOf(samples) },
      ...bellsFor(recording.name, samples, PLANTED).map(({ bell, planted }) => ({
        recording,
        bell,
        found: find(planted),
        suspects: [],
      })),
    ];
  });

const sure = ({ found }: Case) => found.filter(({ evidence }) => evidence >= LEAST_EVIDENCE).slice(0, AMONG);
const isNear = (bell: PlantedBell, { frequencyHz }: FoundResonance) =>
  Math.abs(frequencyHz / bell.frequencyHz - 1) < 0.02;
const hitOf = (example: Case) => sure(example).find((found) => isNear(example.bell!, found));

const clean = cases.filter(({ bell }) => bell === null);
const planted = cases.filter(({ bell }) => bell !== null);
const share = (some: readonly Case[]) =>
  some.length === 0
    ? '–'
    : `${some.filter(hitOf).length} of ${some.length} (${((100 * some.filter(hitOf).length) / some.length).toFixed(0)} %)`;

const falseOnes = clean.reduce((sum, example) => sum + sure(example).length, 0);
console.log(
  `${clean.length} recordings, ${planted.length} bells; false on a clean one: ${(falseOnes / clean.length).toFixed(2)}\n`,
);
console.log(
  `of any kind: ${SUSPECT_KINDS.map((kind) => `${kind} ${(clean.reduce((sum, { suspects }) => sum + suspects.filter((suspect) => suspect.kind === kind).length, 0) / clean.length).toFixed(2)}`).join(', ')}\n`,
);
const loud = planted.filter(({ bell }) => bell!.gainDb >= 9);
console.log(
  table([
    ['planted', 'found among the first six'],
    ...[6, 9, 12, 15].map((gainDb) => [`+${gainDb} dB`, share(planted.filter(({ bell }) => bell!.gainDb === gainDb))]),
    ['+9 dB and more', share(loud)],
    ...[...new Set(loud.map(({ recording }) => recording.family))].map((family) => [
      `… in ${family}`,
      share(loud.filter(({ recording }) => recording.family === family)),
    ]),
    ...(
      [
        [100, 400],
        [400, 1500],
        [1500, 8000],
      ] as const
    ).map(([from, to]) => [
      `… ${from} to ${to} Hz`,
      share(loud.filter(({ bell }) => bell!.frequencyHz >= from && bell!.frequencyHz < to)),
    ]),
    ...(
      [
        [12, 19],
        [19, 31],
      ] as const
    ).map(([from, to]) => [`… Q ${from} to ${to}`, share(loud.filter(({ bell }) => bell!.q >= from && bell!.q < to))]),
  ]),
);
// The more must speak for a finding, the fewer are false and the fewer are found.
const at = (least: number) => {
  const isHit = ({ bell, found }: Case) =>
    found
      .filter(({ evidence }) => evidence >= least)
      .slice(0, AMONG)
      .some((suspect) => isNear(bell!, suspect));
  const falsely = clean.reduce((sum, { found }) => sum + found.filter(({ evidence }) => evidence >= least).length, 0);
  return [
    least,
    (falsely / clean.length).toFixed(2),
    `${((100 * loud.filter(isHit).length) / loud.length).toFixed(0)} %`,
  ];
};
console.log(
  `\n${table([['least evidence', 'false on a clean one', 'found of +9 dB and more'], ...[-1, 0, 1, 2, 3, 4].map(at)])}`,
);
const hits = planted.flatMap((example) => {
  const hit = hitOf(example);
  return hit ? [{ bell: example.bell!, hit }] : [];
});
const within = (isIn: (pair: (typeof hits)[number]) => boolean) =>
  `${((100 * hits.filter(isIn).length) / Math.max(1, hits.length)).toFixed(0)} %`;
console.log(
  `\nof those found: Q within a factor 1.6 ${within(({ bell, hit }) => Math.abs(Math.log(hit.q / bell.q)) < Math.log(1.6))}, gain within 3 dB ${within(({ bell, hit }) => Math.abs(hit.gainDb - bell.gainDb) < 3)}`,
);

// Of those that are said to be so sure, so many are right.
const judged = cases.flatMap((example) =>
  example.found.map((found) => ({ found, isRight: example.bell !== null && isNear(example.bell, found) })),
);
console.log(
  `\n${table([
    ['sureness', 'findings', 'right'],
    ...[0, 0.2, 0.4, 0.6, 0.8].map((from) => {
      const some = judged.filter(
        ({ found }) => surenessOf(found.evidence) >= from && surenessOf(found.evidence) < from + 0.2 + 1e-9,
      );
      return [
        `${from} to ${(from + 0.2).toFixed(1)}`,
        some.length,
        some.length === 0
          ? '–'
          : `${((100 * some.filter(({ isRight }) => isRight).length) / some.length).toFixed(0)} %`,
      ];
    }),
  ])}`,
);
console.log(
  `\n${median(times).toFixed(2)} s of one core for a recording of half a minute, as much as is looked at of a long one`,
);
if (!isReport) {
  // So much evidence that half a finding on a clean recording is false, on average; and the curve of sureness that fits.
  const least = clean.flatMap(({ found }) => found.map(({ evidence }) => evidence)).sort((a, b) => b - a)[
    Math.round(clean.length / 2)
  ];
  const lossOf = ([slope, middle]: readonly number[]) =>
    judged.reduce((sum, { found, isRight }) => {
      const sureness = 1 / (1 + Math.exp(-slope * (found.evidence - middle)));
      return sum - Math.log(1e-9 + (isRight ? sureness : 1 - sureness));
    }, 0);
  let best = [0.5, 2];
  for (let slope = 0.1; slope < 2; slope += 0.05)
    for (let middle = -2; middle < 8; middle += 0.1) if (lossOf([slope, middle]) < lossOf(best)) best = [slope, middle];
  console.log(`\nleast evidence ${least.toFixed(2)}, slope ${best[0].toFixed(2)}, middle ${best[1].toFixed(2)}`);
}
