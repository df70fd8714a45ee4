import { writeLength } from '../formats';
import { describeSettings } from '../passages';
import { settingsOf, type Edit, type SingleEdit, type Song } from '../song';

const singles = (edit: Edit): readonly SingleEdit[] => (edit.kind === 'batch' ? edit.edits : [edit]);

/** What of a song is no setting and was changed, in words. */
function aboutSong(before: Song, after: Song): string[] {
  const lines: string[] = [];
  if (before.title !== after.title) lines.push(`Title “${before.title}” → “${after.title}”`);
  if (before.parts !== after.parts)
    lines.push(after.parts.length === 0 ? 'No parts' : `Parts: ${after.parts.map(({ name }) => name).join(', ')}`);
  if (JSON.stringify(before.loop) !== JSON.stringify(after.loop))
    lines.push(
      after.loop
        ? `Loop ${writeLength(after.loop.startSeconds)} to ${writeLength(after.loop.endSeconds)}${after.loop.enabled ? '' : ', off'}`
        : 'No loop',
    );
  if (before.grid !== after.grid) lines.push(after.grid ? 'Bars and beats' : 'No bars and beats');
  for (const { id, name } of after.drafts) {
    const old = before.drafts.find((draft) => draft.id === id);
    if (!old) lines.push(`Draft “${name}” kept`);
    else if (old.name !== name) lines.push(`Draft “${old.name}” is called “${name}”`);
  }
  for (const { id, name } of before.drafts)
    if (!after.drafts.some((draft) => draft.id === id)) lines.push(`Draft “${name}” removed`);
  if (before.leftOverlaps !== after.leftOverlaps) lines.push('Overlaps that are left');
  if (before.landmarks !== after.landmarks) lines.push('Landmarks');
  return lines;
}

/** What an edit was, in words, a line for each thing: `Cello: high-pass 80 → 110 Hz`. At least one line. */
export function describeEdit(before: Song, after: Song, edit: Edit): string[] {
  const taken = singles(edit).find((single) => single.kind === 'draft.take');
  const draft = taken && before.drafts.find(({ id }) => id === taken.draftId);
  const lines = [
    ...(draft ? [`Draft “${draft.name}” taken`] : []),
    ...aboutSong(before, after),
    ...describeSettings(settingsOf(before), settingsOf(after)),
  ];
  return lines.length > 0 ? lines : ['Nothing that differs'];
}
