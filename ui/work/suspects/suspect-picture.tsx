import { writeFrequency } from '@/core/formats';
import type { Suspect } from '@/core/suspects';
import { FindingChart } from './finding-chart';

/** What a suspect was found by: what is there in soft, usual and loud moments, around its range. */
export function SuspectChart({ suspect }: { suspect: Suspect }) {
  const { frequenciesHz, softDb, middleDb, loudDb, isRelative } = suspect.picture;
  if (frequenciesHz.length === 0) return null;
  const distance = (hz: number) => Math.abs(hz - suspect.frequencyHz);
  const at = frequenciesHz.reduce((best, hz, i) => (distance(hz) < distance(frequenciesHz[best]) ? i : best), 0);
  const what = isRelative ? 'over what is around' : 'full scale';
  const there = [softDb, middleDb, loudDb].map((levels) => Math.round(levels[at]));
  return (
    <FindingChart
      label={`Levels around ${writeFrequency(suspect.frequencyHz)}: there ${there[0]}, ${there[1]} and ${there[2]} dB ${what} in soft, usual and loud moments`}
      caption={`dB ${what}: — half of the time, shaded from soft to loud moments`}
      points={frequenciesHz.map((hz, i) => ({ hz, shaded: [softDb[i], loudDb[i]], line: middleDb[i] }))}
      range={suspect}
      ticksHz={[frequenciesHz[0], suspect.frequencyHz, frequenciesHz[frequenciesHz.length - 1]]}
      hasZero={isRelative}
    />
  );
}
