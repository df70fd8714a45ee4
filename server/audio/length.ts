import { OrvidError } from '@/core/errors';
import { config } from '../config';

/** @throws OrvidError `unreadable-audio` for a recording beyond the limit */
export function checkLength(frames: number, rateHz: number): void {
  const { maxHours } = config();
  if (frames > maxHours * 3600 * rateHz)
    throw new OrvidError('unreadable-audio', `it is longer than ${maxHours} hours, the limit (ORVID_MAX_HOURS)`);
}
