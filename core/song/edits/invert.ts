import { produce } from 'immer';
import type { Edit, SingleEdit } from '../edit-schema';
import { settingsOf } from '../model';
import type { Song } from '../schema';
import { applySingle } from './apply';
import { inverseChanges } from './changes';
import { need, needBand, needDraft, needEqualizer, needPassage, needProcessor, needStrip } from './find';
import { singles } from './join';
import { figureKey } from './passage-figures';

function invertSingle(song: Song, edit: SingleEdit): SingleEdit {
  switch (edit.kind) {
    case 'song.set':
      return { ...edit, changes: inverseChanges(song, edit.changes) };
    case 'track.add':
      return { kind: 'track.remove', trackId: edit.track.id };
    case 'track.remove': {
      const at = song.tracks.findIndex((track) => track.id === edit.trackId);
      return { kind: 'track.add', track: need(song.tracks[at], 'track'), index: at };
    }
    case 'track.move':
      return { ...edit, index: song.tracks.findIndex((track) => track.id === edit.trackId) };
    case 'bus.add':
      return { kind: 'bus.remove', busId: edit.bus.id };
    case 'bus.remove': {
      const at = song.buses.findIndex((bus) => bus.id === edit.busId);
      return { kind: 'bus.add', bus: need(song.buses[at], 'bus'), index: at };
    }
    case 'strip.set':
      return { ...edit, changes: inverseChanges(needStrip(song, edit.stripId), edit.changes) };
    case 'equalizer.set':
      return { ...edit, changes: inverseChanges(needEqualizer(song, edit.stripId, edit.equalizerId), edit.changes) };
    case 'band.add':
      return { kind: 'band.remove', stripId: edit.stripId, equalizerId: edit.equalizerId, bandId: edit.band.id };
    case 'band.remove': {
      const { bands } = needEqualizer(song, edit.stripId, edit.equalizerId);
      const at = bands.findIndex((band) => band.id === edit.bandId);
      const { stripId, equalizerId } = edit;
      return { kind: 'band.add', stripId, equalizerId, band: need(bands[at], 'band'), index: at };
    }
    case 'band.set': {
      // The frequency is moved into the limits after any change of the band, so it is always put back as well.
      const band = needBand(song, edit);
      return {
        ...edit,
        changes: {
          ...inverseChanges(band, edit.changes),
          ...(edit.changes.limits !== undefined && { frequencyHz: band.frequencyHz }),
        },
      };
    }
    case 'chain.set':
      return { ...edit, chain: needStrip(song, edit.stripId).chain };
    case 'processor.add':
      return { kind: 'processor.remove', stripId: edit.stripId, processorId: edit.processor.id };
    case 'processor.remove': {
      const processor = needProcessor(song, edit);
      const index = needStrip(song, edit.stripId).chain.indexOf(processor);
      return { kind: 'processor.add', stripId: edit.stripId, processor, index };
    }
    case 'processor.move':
      return { ...edit, index: needStrip(song, edit.stripId).chain.indexOf(needProcessor(song, edit)) };
    case 'processor.set': {
      const changes = inverseChanges(needProcessor(song, edit), edit.changes);
      return { ...edit, changes } as typeof edit;
    }
    case 'settings.set':
    case 'draft.take':
      return { kind: 'settings.set', settings: settingsOf(song) };
    case 'draft.keep':
      return { kind: 'draft.remove', draftId: edit.draftId };
    case 'draft.add':
      return { kind: 'draft.remove', draftId: edit.draft.id };
    case 'draft.remove': {
      const at = song.drafts.findIndex((draft) => draft.id === edit.draftId);
      return { kind: 'draft.add', draft: needDraft(song, edit.draftId), index: at };
    }
    case 'draft.rename':
      return { ...edit, name: needDraft(song, edit.draftId).name };
    case 'passage.add':
      return { kind: 'passage.remove', passageId: edit.passage.id };
    case 'passage.set':
      return { ...edit, changes: inverseChanges(needPassage(song, edit.passageId), edit.changes) };
    case 'passage.figure': {
      const key = figureKey(edit.figure);
      const known = needPassage(song, edit.passageId).changes.find(({ figure }) => figureKey(figure) === key);
      return { ...edit, changes: { to: known ? { value: known.value, points: known.points } : null } };
    }
    case 'passage.remove': {
      const at = song.passages.findIndex((passage) => passage.id === edit.passageId);
      return { kind: 'passage.add', passage: need(song.passages[at], 'passage'), index: at };
    }
  }
}

/**
 * The edit that undoes `edit`: `applyEdit(applyEdit(song, edit), invertEdit(song, edit))` equals `song`.
 * @param song the song before the edit
 * @throws OrvidError as {@link applyEdit} does
 */
export function invertEdit(song: Song, edit: Edit): Edit {
  const inverses: SingleEdit[] = [];
  let current = song;
  for (const single of singles(edit)) {
    inverses.unshift(invertSingle(current, single));
    current = produce(current, (draft) => applySingle(draft, single));
  }
  return inverses.length === 1 ? inverses[0] : { kind: 'batch', edits: inverses };
}
