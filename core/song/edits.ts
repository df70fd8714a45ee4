import { produce } from 'immer';
import { z } from 'zod';
import { OrvidError } from '../errors';
import { bandSchema, phaseSchema, withinLimits } from './band';
import {
  busSchema,
  chainSchema,
  draftSchema,
  equalizerSchema,
  findStrip,
  MASTER_ID,
  MOST_DRAFTS,
  passageSchema,
  settingsOf,
  settingsSchema,
  songSchema,
  trackSchema,
  type Draft,
  type Equalizer,
  type Song,
  type Strip,
} from './model';

/**
 * One gesture is one edit: a small plain object. Every edit can be undone by another edit, and changes no more fields
 * than it names, so that two people at the same song lose only what both of them set.
 */
const id = z.string().min(1).max(40);
const index = z.int().min(0).max(200);

const stripChanges = trackSchema
  .pick({
    name: true,
    ink: true,
    gainDb: true,
    pan: true,
    polarityInverted: true,
    muted: true,
    soloed: true,
    outputId: true,
    sends: true,
    part: true,
    claims: true,
  })
  .partial();
const equalizerChanges = equalizerSchema
  .pick({ enabled: true, outputGainDb: true })
  .extend({ phase: phaseSchema })
  .partial();
const bandChanges = bandSchema.omit({ id: true }).partial();
const songChanges = songSchema
  .pick({ title: true, parts: true, loop: true })
  .extend({
    landmarks: songSchema.shape.landmarks.unwrap(),
    leftOverlaps: songSchema.shape.leftOverlaps.unwrap(),
  })
  .partial();

const singleEditSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('song.set'), changes: songChanges }),
  z.strictObject({ kind: z.literal('track.add'), track: trackSchema, index }),
  z.strictObject({ kind: z.literal('track.remove'), trackId: id }),
  z.strictObject({ kind: z.literal('track.move'), trackId: id, index }),
  z.strictObject({ kind: z.literal('bus.add'), bus: busSchema, index }),
  z.strictObject({ kind: z.literal('bus.remove'), busId: id }),
  z.strictObject({ kind: z.literal('strip.set'), stripId: id, changes: stripChanges }),
  z.strictObject({ kind: z.literal('equalizer.set'), stripId: id, equalizerId: id, changes: equalizerChanges }),
  z.strictObject({ kind: z.literal('band.add'), stripId: id, equalizerId: id, band: bandSchema, index }),
  z.strictObject({ kind: z.literal('band.remove'), stripId: id, equalizerId: id, bandId: id }),
  z.strictObject({ kind: z.literal('band.set'), stripId: id, equalizerId: id, bandId: id, changes: bandChanges }),
  z.strictObject({ kind: z.literal('chain.set'), stripId: id, chain: chainSchema }),
  z.strictObject({ kind: z.literal('settings.set'), settings: settingsSchema }),
  z.strictObject({ kind: z.literal('draft.keep'), draftId: id, name: draftSchema.shape.name }),
  z.strictObject({ kind: z.literal('draft.add'), draft: draftSchema, index }),
  z.strictObject({ kind: z.literal('draft.remove'), draftId: id }),
  z.strictObject({ kind: z.literal('draft.rename'), draftId: id, name: draftSchema.shape.name }),
  z.strictObject({ kind: z.literal('draft.take'), draftId: id }),
  z.strictObject({ kind: z.literal('passage.add'), passage: passageSchema, index: z.int().min(0) }),
  z.strictObject({ kind: z.literal('passage.remove'), passageId: id }),
]);
export type SingleEdit = z.infer<typeof singleEditSchema>;

export const editSchema = z.union([
  singleEditSchema,
  z.strictObject({ kind: z.literal('batch'), edits: z.array(singleEditSchema).min(1).max(500) }),
]);
export type Edit = z.infer<typeof editSchema>;

const singles = (edit: Edit): SingleEdit[] => (edit.kind === 'batch' ? edit.edits : [edit]);

/** Several edits as one; null for none. */
export function batch(edits: readonly Edit[]): Edit | null {
  const all = edits.flatMap(singles);
  if (all.length === 0) return null;
  return all.length === 1 ? all[0] : { kind: 'batch', edits: all };
}

function gone(what: string, name: string): OrvidError {
  return new OrvidError(
    'not-found',
    `The ${what} “${name}” is no longer in the song.`,
    'The rest of the song is as it was.',
  );
}

function need<T>(value: T | undefined, what: string, name: string): T {
  if (value === undefined) throw gone(what, name);
  return value;
}

function needStrip(song: Song, stripId: string): Strip {
  return need(findStrip(song, stripId), 'track or bus', stripId);
}

function needEqualizer(song: Song, stripId: string, equalizerId: string): Equalizer {
  const chain = needStrip(song, stripId).chain;
  return need(
    chain.find((processor) => processor.id === equalizerId),
    'equalizer',
    equalizerId,
  );
}

function needBand(song: Song, edit: { stripId: string; equalizerId: string; bandId: string }) {
  const { bands } = needEqualizer(song, edit.stripId, edit.equalizerId);
  return need(
    bands.find((band) => band.id === edit.bandId),
    'band',
    edit.bandId,
  );
}

function needDraft(song: Song, draftId: string): Draft {
  return need(
    song.drafts.find((draft) => draft.id === draftId),
    'draft',
    draftId,
  );
}

function addDraft(song: Song, draft: Draft, at: number): void {
  if (song.drafts.length >= MOST_DRAFTS)
    throw new OrvidError(
      'invalid-input',
      `A song keeps at most ${MOST_DRAFTS} drafts. Remove one that is no longer needed, then keep this one.`,
      'Nothing was changed.',
    );
  insert(song.drafts, draft, at, 'draft');
}

function insert<T extends { id: string }>(list: T[], item: T, at: number, what: string) {
  if (list.some((other) => other.id === item.id)) {
    throw new OrvidError(
      'invalid-input',
      `The song already has a ${what} with the id “${item.id}”.`,
      'Nothing was changed.',
    );
  }
  list.splice(Math.min(at, list.length), 0, item);
}

function removeById<T extends { id: string }>(list: T[], itemId: string, what: string): void {
  const at = list.findIndex((item) => item.id === itemId);
  if (at < 0) throw gone(what, itemId);
  list.splice(at, 1);
}

/** The buses that a signal of `stripId` reaches, through outputs and sends. */
function reaches(song: Song, stripId: string, seen = new Set<string>()): Set<string> {
  const strip = findStrip(song, stripId);
  if (!strip || !('outputId' in strip)) return seen;
  for (const next of [strip.outputId, ...strip.sends.map((send) => send.busId)]) {
    if (seen.has(next)) continue;
    seen.add(next);
    reaches(song, next, seen);
  }
  return seen;
}

/** Every output and send must lead to a bus of the song, and no bus may feed itself. @throws OrvidError `invalid-input` */
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
  for (const bus of song.buses) {
    if (reaches(song, bus.id).has(bus.id)) {
      throw new OrvidError('invalid-input', `The bus “${bus.name}” would feed itself. Choose another output or send.`);
    }
  }
}

function applySingle(song: Song, edit: SingleEdit): void {
  switch (edit.kind) {
    case 'song.set':
      Object.assign(song, edit.changes);
      break;
    case 'track.add':
      if (findStrip(song, edit.track.id)) throw new OrvidError('invalid-input', `The id “${edit.track.id}” is taken.`);
      insert(song.tracks, edit.track, edit.index, 'track');
      break;
    case 'track.remove':
      removeById(song.tracks, edit.trackId, 'track');
      break;
    case 'track.move': {
      const track = need(
        song.tracks.find((one) => one.id === edit.trackId),
        'track',
        edit.trackId,
      );
      song.tracks.splice(song.tracks.indexOf(track), 1);
      song.tracks.splice(Math.min(edit.index, song.tracks.length), 0, track);
      break;
    }
    case 'bus.add':
      if (findStrip(song, edit.bus.id)) throw new OrvidError('invalid-input', `The id “${edit.bus.id}” is taken.`);
      insert(song.buses, edit.bus, edit.index, 'bus');
      break;
    case 'bus.remove':
      removeById(song.buses, edit.busId, 'bus');
      break;
    case 'strip.set': {
      const strip = needStrip(song, edit.stripId);
      const foreign = Object.keys(edit.changes).find((key) => !(key in strip));
      if (foreign)
        throw new OrvidError('invalid-input', `“${edit.stripId}” has no field “${foreign}”.`, 'Nothing was changed.');
      Object.assign(strip, edit.changes);
      break;
    }
    case 'equalizer.set':
      Object.assign(needEqualizer(song, edit.stripId, edit.equalizerId), edit.changes);
      break;
    case 'band.add':
      insert(needEqualizer(song, edit.stripId, edit.equalizerId).bands, edit.band, edit.index, 'band');
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
    case 'settings.set':
      Object.assign(song, edit.settings);
      break;
    case 'draft.keep':
      addDraft(song, { id: edit.draftId, name: edit.name, settings: settingsOf(song) }, song.drafts.length);
      break;
    case 'draft.add':
      addDraft(song, edit.draft, edit.index);
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
      insert(song.passages, edit.passage, edit.index, 'passage');
      break;
    case 'passage.remove':
      removeById(song.passages, edit.passageId, 'passage');
      break;
  }
}

const CHANGES_ROUTING = new Set<SingleEdit['kind']>([
  'track.add',
  'bus.add',
  'bus.remove',
  'strip.set',
  'settings.set',
  'draft.take',
]);

/**
 * The next song. The given one is not touched.
 * @throws OrvidError `not-found` where the edit names what is gone, `invalid-input` where it would break the song;
 *   a batch is applied whole or not at all
 */
export function applyEdit(song: Song, edit: Edit): Song {
  const list = singles(edit);
  // One draft an edit: what an earlier edit of a batch put in may be changed by a later one.
  const next = list.reduce((current, single) => produce(current, (draft) => applySingle(draft, single)), song);
  if (list.some((single) => CHANGES_ROUTING.has(single.kind))) checkRouting(next);
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
      return { kind: 'track.add', track: need(song.tracks[at], 'track', edit.trackId), index: at };
    }
    case 'track.move':
      return { ...edit, index: song.tracks.findIndex((track) => track.id === edit.trackId) };
    case 'bus.add':
      return { kind: 'bus.remove', busId: edit.bus.id };
    case 'bus.remove': {
      const at = song.buses.findIndex((bus) => bus.id === edit.busId);
      return { kind: 'bus.add', bus: need(song.buses[at], 'bus', edit.busId), index: at };
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
      return { kind: 'band.add', stripId, equalizerId, band: need(bands[at], 'band', edit.bandId), index: at };
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
    case 'passage.remove': {
      const at = song.passages.findIndex((passage) => passage.id === edit.passageId);
      return { kind: 'passage.add', passage: need(song.passages[at], 'passage', edit.passageId), index: at };
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
