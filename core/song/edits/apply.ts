import { produce } from 'immer';
import { OrvidError } from '../../errors';
import { withinLimits } from '../band';
import type { Edit, SingleEdit } from '../edit-schema';
import { findStrip, settingsOf } from '../model';
import { givesWaySchema, isRange, type Range, type Song } from '../schema';
import { applyChanges } from './changes';
import { need, needBand, needDraft, needEqualizer, needPassage, needProcessor, needStrip } from './find';
import { singles } from './join';
import { BANDS, BUSES, DRAFTS, insert, PASSAGES, PROCESSORS, removeById, TRACKS } from './lists';
import { checkedPassage, setFigure } from './passage-figures';
import { refused } from './refusals';
import { checkIds, checkRouting } from './routing';

/** Its ends may have been set one by one. @throws OrvidError `invalid-input` where they have passed each other */
function checkRange(range: Range | undefined): void {
  if (range && !isRange(range)) throw refused('The lower end of a range must lie below its upper end.');
}

/** @throws OrvidError as {@link applyEdit} does; a draft of the song is changed in place */
export function applySingle(song: Song, edit: SingleEdit): void {
  switch (edit.kind) {
    case 'song.set':
      Object.assign(song, edit.changes);
      break;
    case 'track.add':
      if (findStrip(song, edit.track.id)) throw refused(`The id “${edit.track.id}” is taken.`);
      insert(song.tracks, edit.track, edit.index, TRACKS);
      break;
    case 'track.remove':
      removeById(song.tracks, edit.trackId, 'track');
      break;
    case 'track.move': {
      const track = need(
        song.tracks.find((track) => track.id === edit.trackId),
        'track',
      );
      song.tracks.splice(song.tracks.indexOf(track), 1);
      song.tracks.splice(Math.min(edit.index, song.tracks.length), 0, track);
      break;
    }
    case 'bus.add':
      if (findStrip(song, edit.bus.id)) throw refused(`The id “${edit.bus.id}” is taken.`);
      insert(song.buses, edit.bus, edit.index, BUSES);
      break;
    case 'bus.remove':
      removeById(song.buses, edit.busId, 'bus');
      break;
    case 'strip.set': {
      const strip = needStrip(song, edit.stripId);
      const foreign = Object.keys(edit.changes).find((key) => !(key in strip));
      if (foreign) throw refused(`“${edit.stripId}” has no field “${foreign}”.`);
      Object.assign(strip, edit.changes);
      break;
    }
    case 'equalizer.set':
      Object.assign(needEqualizer(song, edit.stripId, edit.equalizerId), edit.changes);
      break;
    case 'band.add':
      insert(needEqualizer(song, edit.stripId, edit.equalizerId).bands, edit.band, edit.index, BANDS);
      break;
    case 'band.remove':
      removeById(needEqualizer(song, edit.stripId, edit.equalizerId).bands, edit.bandId, 'band');
      break;
    case 'band.set': {
      const band = needBand(song, edit);
      const { givesWay } = edit.changes;
      if (givesWay && !band.givesWay && !givesWaySchema.safeParse(givesWay).success)
        throw refused('This band does not give way any more.');
      applyChanges(band, edit.changes);
      checkRange(band.givesWay?.key);
      band.frequencyHz = withinLimits(band, band.frequencyHz);
      break;
    }
    case 'chain.set':
      needStrip(song, edit.stripId).chain = edit.chain;
      break;
    case 'processor.add':
      insert(needStrip(song, edit.stripId).chain, edit.processor, edit.index, PROCESSORS);
      break;
    case 'processor.remove':
      needProcessor(song, edit);
      removeById(needStrip(song, edit.stripId).chain, edit.processorId, 'processor');
      break;
    case 'processor.move': {
      const { chain } = needStrip(song, edit.stripId);
      const processor = needProcessor(song, edit);
      chain.splice(chain.indexOf(processor), 1);
      chain.splice(Math.min(edit.index, chain.length), 0, processor);
      break;
    }
    case 'processor.set': {
      const processor = needProcessor(song, edit);
      if (processor.kind !== edit.processorKind) throw refused(`This ${processor.kind} is no ${edit.processorKind}.`);
      applyChanges(processor, edit.changes);
      checkRange('key' in processor ? processor.key : undefined);
      checkRange('range' in processor ? processor.range : undefined);
      break;
    }
    case 'settings.set':
      Object.assign(song, edit.settings);
      break;
    case 'draft.keep':
      insert(
        song.drafts,
        { id: edit.draftId, name: edit.name, settings: settingsOf(song) },
        song.drafts.length,
        DRAFTS,
      );
      break;
    case 'draft.add':
      insert(song.drafts, edit.draft, edit.index, DRAFTS);
      break;
    case 'draft.remove':
      removeById(song.drafts, edit.draftId, 'draft');
      break;
    case 'draft.rename':
      needDraft(song, edit.draftId).name = edit.name;
      break;
    case 'draft.take':
      Object.assign(song, needDraft(song, edit.draftId).settings);
      break;
    case 'passage.add':
      insert(song.passages, checkedPassage(edit.passage), edit.index, PASSAGES);
      break;
    case 'passage.set':
      checkedPassage(Object.assign(needPassage(song, edit.passageId), edit.changes));
      break;
    case 'passage.figure':
      setFigure(needPassage(song, edit.passageId), edit.figure, edit.changes.to);
      break;
    case 'passage.remove':
      removeById(song.passages, edit.passageId, 'passage');
      break;
    default:
      throw new OrvidError(
        'conflict',
        `This change (“${(edit as { kind: unknown }).kind as string}”) was made by a newer Orvid, which this one does not understand.`,
        'Nothing was changed. Open the song with the newer one.',
      );
  }
}

/** Edits that bring in whole strips, chains or settings, with ids of their own. */
const BRINGS_IDS = new Set<SingleEdit['kind']>([
  'track.add',
  'bus.add',
  'chain.set',
  'processor.add',
  'settings.set',
  'draft.take',
]);
const CHANGES_ROUTING = new Set<SingleEdit['kind']>([
  'track.add',
  'track.remove',
  'bus.add',
  'bus.remove',
  'strip.set',
  'chain.set',
  'processor.add',
  'settings.set',
  'draft.take',
]);
const changesRouting = (edit: SingleEdit) =>
  edit.kind === 'processor.set'
    ? 'key' in edit.changes
    : edit.kind === 'band.set'
      ? 'givesWay' in edit.changes
      : edit.kind === 'band.add'
        ? edit.band.givesWay !== null
        : CHANGES_ROUTING.has(edit.kind);

/**
 * The next song. The given one is not touched.
 * @throws OrvidError `not-found` where the edit names what is gone, `invalid-input` where it would break the song;
 *   a batch is applied whole or not at all
 */
export function applyEdit(song: Song, edit: Edit): Song {
  const list = singles(edit);
  // One draft an edit: what an earlier edit of a batch put in may be changed by a later one.
  const next = list.reduce((current, single) => produce(current, (draft) => applySingle(draft, single)), song);
  if (list.some(changesRouting)) checkRouting(next);
  if (list.some((single) => BRINGS_IDS.has(single.kind))) checkIds(next);
  return next;
}
