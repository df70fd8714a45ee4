import { produce } from 'immer';
import { OrvidError } from '../errors';
import { withinLimits } from './band';
import type { Edit, SingleEdit } from './edit-schema';
import {
  findStrip,
  MASTER_ID,
  MOST_BANDS,
  MOST_BUSES,
  MOST_CHANGES,
  MOST_DRAFTS,
  MOST_PASSAGES,
  MOST_TRACKS,
  settingsOf,
  equalizersOf,
  keyStripsOf,
  type Strip,
} from './model';
import { MOST_PROCESSORS } from './processor';
import type { ChainProcessor, Draft, Equalizer, FigureRef, Passage, PassageChange, PassageValue, Song } from './schema';

const singles = (edit: Edit): SingleEdit[] => (edit.kind === 'batch' ? edit.edits : [edit]);

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
      list[at] = { ...before, changes: { ...before.changes, ...(single as typeof before).changes } } as SingleEdit;
    }
  }
  return list.length === 1 ? list[0] : { kind: 'batch', edits: list };
}

/** Ids mean nothing to people, and of what is gone the name is not known any more. */
function gone(what: string): OrvidError {
  return new OrvidError('not-found', `This ${what} is no longer in the song.`, 'The rest of the song is as it was.');
}

function need<T>(value: T | undefined, what: string): T {
  if (value === undefined) throw gone(what);
  return value;
}

function needStrip(song: Song, stripId: string): Strip {
  return need(findStrip(song, stripId), 'track or bus');
}

function needEqualizer(song: Song, stripId: string, equalizerId: string): Equalizer {
  return need(
    equalizersOf(needStrip(song, stripId).chain).find(({ id }) => id === equalizerId),
    'equalizer',
  );
}

function needProcessor(song: Song, { stripId, processorId }: { stripId: string; processorId: string }): ChainProcessor {
  return need(
    needStrip(song, stripId).chain.find(({ id }) => id === processorId),
    'processor',
  );
}

function needBand(song: Song, edit: { stripId: string; equalizerId: string; bandId: string }) {
  const { bands } = needEqualizer(song, edit.stripId, edit.equalizerId);
  return need(
    bands.find((band) => band.id === edit.bandId),
    'band',
  );
}

function needDraft(song: Song, draftId: string): Draft {
  return need(
    song.drafts.find((draft) => draft.id === draftId),
    'draft',
  );
}

/** What a song is made of, in lists that end somewhere. */
interface Listed {
  what: string;
  /** What holds them. */
  of: string;
  most: number;
}
const TRACKS: Listed = { what: 'track', of: 'song', most: MOST_TRACKS };
const BUSES: Listed = { what: 'bus', of: 'song', most: MOST_BUSES };
const BANDS: Listed = { what: 'band', of: 'equalizer', most: MOST_BANDS };
const PROCESSORS: Listed = { what: 'processor', of: 'chain', most: MOST_PROCESSORS };
const DRAFTS: Listed = { what: 'draft', of: 'song', most: MOST_DRAFTS };
const PASSAGES: Listed = { what: 'passage', of: 'song', most: MOST_PASSAGES };

const refused = (message: string) => new OrvidError('invalid-input', message, 'Nothing was changed.');
const plural = (what: string) => (what === 'bus' ? 'buses' : `${what}s`);

/** @throws OrvidError `invalid-input` where a list would grow beyond its end, or an id is taken */
function insert<T extends { id: string }>(list: T[], item: T, at: number, { what, of, most }: Listed) {
  if (list.length >= most)
    throw refused(
      `A${of === 'equalizer' ? 'n' : ''} ${of} has at most ${most} ${plural(what)}. Remove one, then add this one.`,
    );
  if (list.some((other) => other.id === item.id))
    throw refused(`The ${of} already has a ${what} with the id “${item.id}”.`);
  list.splice(Math.min(at, list.length), 0, item);
}

function removeById<T extends { id: string }>(list: T[], itemId: string, what: string): void {
  const at = list.findIndex((item) => item.id === itemId);
  if (at < 0) throw gone(what);
  list.splice(at, 1);
}

/** The strips that what leaves each strip reaches next: by its output, its sends, and as a key. */
function nextStrips(song: Song): Map<string, string[]> {
  const next = new Map<string, string[]>([[MASTER_ID, []]]);
  const strips = [...song.tracks, ...song.buses];
  for (const strip of strips) next.set(strip.id, [strip.outputId, ...strip.sends.map(({ busId }) => busId)]);
  for (const strip of [...strips, song.master]) for (const from of keyStripsOf(strip)) next.get(from)?.push(strip.id);
  return next;
}

/** All that is reached from a strip. */
function reaches(next: ReadonlyMap<string, string[]>, stripId: string, seen = new Set<string>()): Set<string> {
  for (const id of next.get(stripId) ?? []) {
    if (seen.has(id)) continue;
    seen.add(id);
    reaches(next, id, seen);
  }
  return seen;
}

/** No two strips of a song, processors of a chain or bands of an equalizer share an id. @throws OrvidError `invalid-input` */
export function checkIds(song: Song): void {
  const check = (items: readonly { id: string }[], what: string) => {
    const ids = items.map(({ id }) => id);
    const twice = ids.find((id, i) => ids.indexOf(id) !== i);
    if (twice !== undefined) throw refused(`Two ${what} have the id “${twice}”.`);
  };
  const strips = [song.master, ...song.tracks, ...song.buses];
  check(strips, 'tracks or buses');
  for (const { chain } of strips) {
    check(chain, 'processors');
    for (const { bands } of equalizersOf(chain)) check(bands, 'bands');
  }
}

const nameOf = (strip: Strip) => ('name' in strip ? strip.name : 'Master');

/**
 * Every output and send must lead to a bus of the song, every key to a track or bus of it, and nothing may feed, or listen to, itself.
 * @throws OrvidError `invalid-input`
 */
export function checkRouting(song: Song): void {
  for (const strip of [...song.tracks, ...song.buses]) {
    for (const target of [strip.outputId, ...strip.sends.map((send) => send.busId)]) {
      if (target !== MASTER_ID && !song.buses.some((bus) => bus.id === target)) {
        throw new OrvidError(
          'invalid-input',
          `“${strip.name}” is routed to “${target}”, which is not a bus of this song.`,
        );
      }
    }
  }
  const next = nextStrips(song);
  for (const strip of [...song.tracks, ...song.buses, song.master])
    for (const from of keyStripsOf(strip))
      if (from === MASTER_ID || !next.has(from))
        throw refused(
          `“${nameOf(strip)}” would listen to ${from === MASTER_ID ? 'the master' : 'a strip that is not in the song'}. Choose a track or a group as its key.`,
        );
  for (const strip of [...song.buses, ...song.tracks])
    if (reaches(next, strip.id).has(strip.id))
      throw refused(
        `“${strip.name}” would feed itself, or listen to what it feeds. Choose another output, send or key.`,
      );
}

function needPassage(song: Song, passageId: string): Passage {
  return need(
    song.passages.find(({ id }) => id === passageId),
    'passage',
  );
}

/** Names a figure within a song. */
export const figureKey = ({ stripId, of, partId, field }: FigureRef) => [stripId, of, partId, field].join('/');

const byFigure = (one: PassageChange, other: PassageChange) =>
  figureKey(one.figure) < figureKey(other.figure) ? -1 : 1;

/** Times are written to a millionth of a second: so much may be lost on the way. */
const ROUNDING_SECONDS = 1e-6;

/** The passage with its changes in their order. @throws OrvidError `invalid-input` where it has no length, longer fades than itself, a figure twice, or a line that runs back */
function checkedPassage(passage: Passage): Passage {
  const { name, startSeconds, endSeconds, fadeInSeconds, fadeOutSeconds, changes } = passage;
  if (!(endSeconds > startSeconds)) throw refused(`“${name}” would end before it begins.`);
  if (fadeInSeconds + fadeOutSeconds > endSeconds - startSeconds + ROUNDING_SECONDS)
    throw refused(`The fades of “${name}” would be longer than the passage itself.`);
  const keys = changes.map(({ figure }) => figureKey(figure));
  if (new Set(keys).size < keys.length) throw refused(`“${name}” sets one figure twice.`);
  changes.forEach(checkPoints);
  if (changes.some((change, i) => i > 0 && byFigure(changes[i - 1], change) > 0))
    passage.changes = [...changes].sort(byFigure);
  return passage;
}

function checkPoints({ points }: PassageValue): void {
  if (points.some(({ atSeconds }, i) => i > 0 && atSeconds < points[i - 1].atSeconds))
    throw refused('The points of a line stand in the order of their times.');
}

function setFigure({ name, changes }: Passage, figure: FigureRef, to: PassageValue | null): void {
  const key = figureKey(figure);
  const at = changes.findIndex((change) => figureKey(change.figure) >= key);
  const isThere = at >= 0 && figureKey(changes[at].figure) === key;
  if (to) checkPoints(to);
  if (!isThere && to && changes.length >= MOST_CHANGES)
    throw refused(`“${name}” sets ${MOST_CHANGES} figures, which is the most that one passage can.`);
  if (isThere) changes.splice(at, 1, ...(to ? [{ figure, ...to }] : []));
  else if (to) changes.splice(at < 0 ? changes.length : at, 0, { figure, ...to });
}

function applySingle(song: Song, edit: SingleEdit): void {
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
      Object.assign(band, edit.changes);
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
      Object.assign(processor, edit.changes);
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

function previous<T extends object, C extends object>(current: T, changes: C): C {
  return Object.fromEntries(Object.keys(changes).map((key) => [key, current[key as keyof T]])) as C;
}

function invertSingle(song: Song, edit: SingleEdit): SingleEdit {
  switch (edit.kind) {
    case 'song.set':
      return { ...edit, changes: previous(song, edit.changes) };
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
      return { ...edit, changes: previous(needStrip(song, edit.stripId), edit.changes) };
    case 'equalizer.set':
      return { ...edit, changes: previous(needEqualizer(song, edit.stripId, edit.equalizerId), edit.changes) };
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
          ...previous(band, edit.changes),
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
      const changes = previous(needProcessor(song, edit), edit.changes);
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
      return { ...edit, changes: previous(needPassage(song, edit.passageId), edit.changes) };
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
