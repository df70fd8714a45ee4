import { describeDifferences, writeTime } from '../formats';
import type { Passage, Settings } from '../song';
import { describeChanges } from './words';

const timesOf = ({ startSeconds, endSeconds }: Passage) => `${writeTime(startSeconds)} to ${writeTime(endSeconds)}`;

/** What differs between two states of a song's settings, in words: its tracks first, then its passages. */
export function describeSettings(before: Settings, after: Settings): string[] {
  const lines = describeDifferences(before, after);
  for (const passage of after.passages) {
    const old = before.passages.find(({ id }) => id === passage.id);
    const name = `Passage “${passage.name}”`;
    if (!old) {
      lines.push(`${name} added, ${timesOf(passage)}`);
      continue;
    }
    if (old === passage) continue;
    if (old.name !== passage.name) lines.push(`${name} was called “${old.name}”`);
    if (timesOf(old) !== timesOf(passage)) lines.push(`${name} from ${timesOf(old)} → ${timesOf(passage)}`);
    if (old.enabled !== passage.enabled) lines.push(`${name} ${passage.enabled ? 'on' : 'off'}`);
    if (old.fadeInSeconds !== passage.fadeInSeconds || old.fadeOutSeconds !== passage.fadeOutSeconds)
      lines.push(`${name} fades otherwise`);
    const [was, is] = [describeChanges(before, old.changes), describeChanges(after, passage.changes)];
    lines.push(...is.filter((line) => !was.includes(line)).map((line) => `${name}: ${line}`));
    lines.push(...was.filter((line) => !is.includes(line)).map((line) => `${name} no longer: ${line}`));
  }
  for (const old of before.passages)
    if (!after.passages.some(({ id }) => id === old.id)) lines.push(`Passage “${old.name}” removed`);
  return lines;
}
