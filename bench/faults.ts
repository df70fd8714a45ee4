import { SUSPECT_KINDS, type Suspect } from '@/core/suspects';
import { SuspectFinder } from '@/core/suspects/finder';
import { OF_VOICES, plant, PLANTED_FAULTS, type Planted } from './recordings/planted';
import { RATE, recordings, samplesOf, voices, type Recording } from './recordings/recordings';
import { table } from './support';

/**
 * How well faults other than narrow bells are found: each is planted by seed into recordings of Debian packages where it can be heard, in
 * the part that is only reported, sibilants in voices that are for that. `faults [N]`: every Nth recording; `faults N 0`: those that thresholds are set on. By name only.
 */
const [every = 3, isReport = 1] = process.argv.slice(2).map(Number);
const part: Recording['part'] = isReport ? 'report' : 'calibration';
const AMONG = 6;

/** Resonances take most of the time. */
const BY_RESONANCES = /mode|same|ring/;

function suspectsOf(samples: Float32Array, withResonances: boolean): Suspect[] {
  const finder = new SuspectFinder(RATE, samples.length, withResonances);
  finder.push([samples]);
  return finder.finish().slice(0, AMONG);
}

/** Ratio of places that are one. */
const SAME_PLACE = 1.04;
const isNear = (first: number, second: number, within: number) => Math.abs(Math.log(first / second)) < Math.log(within);
function names({ kinds, place }: Planted, { kind, frequencyHz, modes = [] }: Suspect): boolean {
  if (!kinds.includes(kind)) return false;
  if (place === null) return true;
  const places = [frequencyHz, ...modes.map((mode) => mode.frequencyHz)];
  const isNamed = (hz: number) => places.some((found) => isNear(found, hz, place.within));
  return place.frequenciesHz.filter(isNamed).length >= (place.least ?? 1);
}

interface Judged {
  kind: Suspect['kind'];
  sureness: number;
  isRight: boolean;
}

const [some, speakers] = [recordings().filter((recording) => recording.part === part), voices(part)].map((all) =>
  all.filter((_, i) => i % every === 0),
);
const clean = new Map(
  [...some, ...speakers].map((recording) => [recording.name, suspectsOf(samplesOf(recording), true)]),
);
/** Findings with how sure they were said to be, and whether they were right. */
const judged: Judged[] = [...clean.values()].flatMap((found) =>
  found.map(({ kind, sureness }) => ({ kind, sureness, isRight: false })),
);
const rows = PLANTED_FAULTS.map((fault) => {
  const planted = (OF_VOICES.has(fault) ? speakers : some).flatMap((recording) => {
    const plantedFault = plant(fault, recording.name, samplesOf(recording));
    return plantedFault ? [{ one: plantedFault, clean: clean.get(recording.name)! }] : [];
  });
  let found = 0;
  for (const { one: first, clean: before } of planted) {
    const suspects = suspectsOf(first.samples, BY_RESONANCES.test(fault));
    const hits = suspects.filter((suspect) => names(first, suspect));
    if (hits.length > 0) found++;
    // What is found in the clean recording as well is judged there.
    const isNew = (suspect: Suspect) =>
      !before.some(
        (other) => other.kind === suspect.kind && isNear(other.frequencyHz, suspect.frequencyHz, SAME_PLACE),
      );
    for (const suspect of suspects.filter(isNew))
      judged.push({ kind: suspect.kind, sureness: suspect.sureness, isRight: hits.includes(suspect) });
  }
  return [
    fault,
    planted.length,
    planted.length === 0 ? '–' : `${found} (${((100 * found) / planted.length).toFixed(0)} %)`,
  ];
});
const rightOf = (findings: readonly Judged[]) =>
  findings.length === 0
    ? '–'
    : `${((100 * findings.filter(({ isRight }) => isRight).length) / findings.length).toFixed(0)} %`;
const countOf = (kind: Suspect['kind'], of: readonly Recording[]) =>
  of.flatMap(({ name }) => clean.get(name)!).filter((suspect) => suspect.kind === kind).length;
console.log(
  `${some.length} recordings, ${speakers.length} voices.\n\n${table([['planted where it can be heard', 'times', 'found'], ...rows])}\n`,
);
console.log(
  table([
    ['kind', 'on a clean recording', 'on a clean voice', 'findings', 'right', 'said on average'],
    ...SUSPECT_KINDS.map((kind) => {
      const of = judged.filter((suspect) => suspect.kind === kind);
      return [
        kind,
        ...[some, speakers].map((of) => (countOf(kind, of) / of.length).toFixed(2)),
        of.length,
        rightOf(of),
        of.length === 0
          ? '–'
          : `${((100 * of.reduce((total, { sureness }) => total + sureness, 0)) / of.length).toFixed(0)} %`,
      ];
    }),
  ]),
);
const LIMITS = [0, 0.2, 0.4, 0.6, 0.8, 1];
console.log(
  `\n${table([
    ['said', 'findings', 'right'],
    ...LIMITS.slice(1).map((most, i) => {
      const of = judged.filter(({ sureness }) => sureness > LIMITS[i] && sureness <= most);
      return [`${100 * LIMITS[i]} to ${100 * most} %`, of.length, rightOf(of)];
    }),
  ])}`,
);
