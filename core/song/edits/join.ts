import type { Edit, SingleEdit } from '../edit-schema';
import { joinChanges } from './changes';
import { figureKey } from './passage-figures';

export const singles = (edit: Edit): SingleEdit[] => (edit.kind === 'batch' ? edit.edits : [edit]);

/** Several edits as one; null for none. */
export function batch(edits: readonly Edit[]): Edit | null {
  const all = edits.flatMap(singles);
  if (all.length === 0) return null;
  return all.length === 1 ? all[0] : { kind: 'batch', edits: all };
}

/** What a plain change of fields is about; null for edits that add, take away or move. */
function subjectOf(edit: SingleEdit): string | null {
  switch (edit.kind) {
    case 'song.set':
      return 'song';
    case 'strip.set':
      return `strip ${edit.stripId}`;
    case 'equalizer.set':
      return `equalizer ${edit.stripId} ${edit.equalizerId}`;
    case 'processor.set':
      return `processor ${edit.stripId} ${edit.processorId}`;
    case 'band.set':
      return `band ${edit.stripId} ${edit.equalizerId} ${edit.bandId}`;
    case 'passage.set':
      return `passage ${edit.passageId}`;
    case 'passage.figure':
      return `figure ${edit.passageId} ${figureKey(edit.figure)}`;
    default:
      return null;
  }
}

/** A band is moved into its limits after every change, so changes of limits must stay where they are. */
const changesLimits = (edit: SingleEdit) => edit.kind === 'band.set' && edit.changes.limits !== undefined;

/**
 * One edit that does what two do one after the other. Fields that both set are set once, to what the second sets: however many
 * presses of a key are joined, the edit stays small.
 */
export function joinEdits(first: Edit, second: Edit): Edit {
  const list = [...singles(first)];
  for (const single of singles(second)) {
    const subject = subjectOf(single);
    const barrier = list.findLastIndex((edit) => subjectOf(edit) === null || changesLimits(edit));
    const at = list.findLastIndex((edit) => subjectOf(edit) === subject);
    if (subject === null || changesLimits(single) || at <= barrier) list.push(single);
    else {
      const before = list[at] as Extract<SingleEdit, { changes: object }>;
      list[at] = { ...before, changes: joinChanges(before.changes, (single as typeof before).changes) } as SingleEdit;
    }
  }
  return list.length === 1 ? list[0] : { kind: 'batch', edits: list };
}
