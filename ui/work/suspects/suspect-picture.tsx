import { writeFrequency } from '@/core/formats';
import type { FrequencyBand } from '@/core/measure';
import type { Mode, Suspect } from '@/core/suspects';
import { FindingChart } from './finding-chart';

const modeRange = ({ frequencyHz, q }: Mode): FrequencyBand => ({
  lowHz: frequencyHz * (1 - 1 / (2 * q)),
  highHz: frequencyHz * (1 + 1 / (2 * q)),
});

/** What a suspect was found by: what is there in soft, usual and loud moments, around its range. */
export function SuspectChart({ suspect }: { suspect: Suspect }) {
  const { frequenciesHz, softDb, middleDb, loudDb, isRelative } = suspect.picture;
  if (frequenciesHz.length === 0) return null;
  const strongest = suspect.modes?.reduce((best, mode) => (mode.gainDb > best.gainDb ? mode : best)) ?? suspect;
  const distance = (hz: number) => Math.abs(hz - strongest.frequencyHz);
  const at = frequenciesHz.reduce((best, hz, i) => (distance(hz) < distance(frequenciesHz[best]) ? i : best), 0);
  const what = isRelative ? 'over what is around' : 'full scale';
  const there = [softDb, middleDb, loudDb].map((levels) => Math.round(levels[at]));
  return (
    <FindingChart
      label={`Levels around ${writeFrequency(strongest.frequencyHz)}: there ${there[0]}, ${there[1]} and ${there[2]} dB ${what} in soft, usual and loud moments`}
      caption={`dB ${what}: — half of the time, shaded from soft to loud moments`}
      points={frequenciesHz.map((hz, i) => ({ hz, shaded: [softDb[i], loudDb[i]], line: middleDb[i] }))}
      ranges={suspect.modes?.map(modeRange) ?? [suspect]}
      ticksHz={[
        frequenciesHz[0],
        ...(suspect.modes ?? [suspect]).map(({ frequencyHz }) => frequencyHz),
        frequenciesHz[frequenciesHz.length - 1],
      ]}
      hasZero={isRelative}
    />
  );
}
