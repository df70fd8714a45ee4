import { writeFrequency } from '@/core/formats';
import type { Bleed } from '@/core/measure';
import { FindingChart } from './finding-chart';

/** Below the loudest third-octave nothing further down is drawn, dB. */
const SHOWN_DB = 60;
const LEVELS: { domain: [number, number]; ticks: number[] } = { domain: [-SHOWN_DB, 0], ticks: [-60, -40, -20, 0] };

const shown = (db: number) => Math.max(-SHOWN_DB, db);
const tidy = (hz: number) => writeFrequency(Number(hz.toPrecision(2)));

/** What a bleed was found by: all that is there by third-octaves, and what of it goes with the other track. */
export function BleedChart({ bleed, sourceName }: { bleed: Bleed; sourceName: string }) {
  const { frequenciesHz, wholeDb, othersDb } = bleed.picture;
  return (
    <FindingChart
      label={`Levels by third-octaves: from ${tidy(bleed.lowHz)} to ${tidy(bleed.highHz)} ${Math.round(100 * bleed.share)} % go with ${sourceName}`}
      caption={`dB by third-octaves: — all that is there, shaded what goes with ${sourceName}`}
      points={frequenciesHz.map((hz, i) => ({ hz, shaded: [-SHOWN_DB, shown(othersDb[i])], line: shown(wholeDb[i]) }))}
      ranges={[bleed]}
      ticksHz={[100, 1000, 10000]}
      levels={LEVELS}
      hasZero={false}
    />
  );
}
