import type { FinishedFile } from '@/core/renders';
import { writeBytes, writeNumber } from '@/core/formats';

/** What is known of a finished file, in a line: `12.4 MB, −18.2 LUFS, −1.1 dBTP`. */
export function aboutFile({ about }: FinishedFile): string {
  if (!about) return '';
  const { bytes, integratedLufs, truePeakDbtp } = about;
  const sound =
    about.kind !== 'sound'
      ? []
      : integratedLufs === null
        ? ['silent']
        : [`${writeNumber(integratedLufs ?? 0)} LUFS`, `${writeNumber(truePeakDbtp ?? 0)} dBTP`];
  return [writeBytes(bytes), ...sound].join(', ');
}
