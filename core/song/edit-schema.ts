import * as z from 'zod';
import { OrvidError } from '../errors';
import {
  anyProcessorSchema,
  bandSchema,
  busSchema,
  chainSchema,
  clipperSchema,
  compressorSchema,
  draftSchema,
  duckerSchema,
  echoSchema,
  equalizerSchema,
  figureRefSchema,
  gateSchema,
  givesWayChanges,
  keyChanges,
  limiterSchema,
  passageSchema,
  passageValueSchema,
  phaseSchema,
  rangeChanges,
  reverbSchema,
  settingsSchema,
  songSchema,
  trackSchema,
} from './schema';

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
  .extend({
    midDb: trackSchema.shape.midDb.unwrap(),
    sideDb: trackSchema.shape.sideDb.unwrap(),
    delayMs: trackSchema.shape.delayMs.unwrap(),
  })
  .partial();
const equalizerChanges = equalizerSchema
  .pick({ enabled: true, outputGainDb: true })
  .extend({ phase: phaseSchema, name: equalizerSchema.shape.name.unwrap() })
  .partial();
const bandChanges = bandSchema.omit({ id: true }).extend({ givesWay: givesWayChanges.nullable() }).partial();
export type BandChanges = z.infer<typeof bandChanges>;
const songChanges = songSchema
  .pick({ title: true, parts: true, loop: true })
  .extend({
    grid: songSchema.shape.grid.unwrap(),
    landmarks: songSchema.shape.landmarks.unwrap(),
    leftOverlaps: songSchema.shape.leftOverlaps.unwrap(),
  })
  .partial();

const pointsSchema = passageValueSchema.shape.points.unwrap();

/** A change of a processor that is no equalizer: its fields are those of its kind. */
const processorChange = <K extends string, S extends z.ZodRawShape>(schema: z.ZodObject<S & ProcessorShape<K>>) => {
  const { id: _id, kind, name, ...fields } = schema.shape;
  return z.strictObject({
    kind: z.literal('processor.set'),
    processorKind: kind as z.ZodLiteral<K>,
    stripId: id,
    processorId: id,
    changes: z.strictObject({ ...fields, name: (name as typeof equalizerSchema.shape.name).unwrap() }).partial(),
  });
};
type ProcessorShape<K extends string> = Pick<typeof equalizerSchema.shape, 'id' | 'name' | 'enabled'> & {
  kind: z.ZodLiteral<K>;
};

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
  z.strictObject({ kind: z.literal('processor.add'), stripId: id, processor: anyProcessorSchema, index }),
  z.strictObject({ kind: z.literal('processor.remove'), stripId: id, processorId: id }),
  z.strictObject({ kind: z.literal('processor.move'), stripId: id, processorId: id, index }),
  z.discriminatedUnion('processorKind', [
    processorChange(gateSchema.extend({ key: keyChanges })),
    processorChange(compressorSchema.extend({ key: keyChanges })),
    processorChange(clipperSchema),
    processorChange(duckerSchema.extend({ key: keyChanges, range: rangeChanges })),
    processorChange(reverbSchema.extend({ range: rangeChanges })),
    processorChange(echoSchema.extend({ range: rangeChanges })),
    processorChange(limiterSchema),
  ]),
  z.strictObject({ kind: z.literal('settings.set'), settings: settingsSchema }),
  z.strictObject({ kind: z.literal('draft.keep'), draftId: id, name: draftSchema.shape.name }),
  z.strictObject({ kind: z.literal('draft.add'), draft: draftSchema, index }),
  z.strictObject({ kind: z.literal('draft.remove'), draftId: id }),
  z.strictObject({ kind: z.literal('draft.rename'), draftId: id, name: draftSchema.shape.name }),
  z.strictObject({ kind: z.literal('draft.take'), draftId: id }),
  z.strictObject({ kind: z.literal('passage.add'), passage: passageSchema, index: z.int().min(0) }),
  z.strictObject({ kind: z.literal('passage.remove'), passageId: id }),
  z.strictObject({
    kind: z.literal('passage.set'),
    passageId: id,
    changes: passageSchema.omit({ id: true, changes: true }).partial(),
  }),
  z.strictObject({
    kind: z.literal('passage.figure'),
    passageId: id,
    figure: figureRefSchema,
    /** Null: there it is as in the rest of the song. */
    changes: z.strictObject({ to: passageValueSchema.extend({ points: pointsSchema }).nullable() }),
  }),
]);
export type SingleEdit = z.infer<typeof singleEditSchema>;

const batchSchema = z.strictObject({
  kind: z.literal('batch'),
  edits: z.array(singleEditSchema).min(1).max(500),
});

export const editSchema = z.discriminatedUnion('kind', [singleEditSchema, batchSchema]);
export type Edit = z.infer<typeof editSchema>;

/** What is wrong with a value, by the field and the limit. */
export function issueText({ issues: [issue] }: z.ZodError): string {
  const field = [...issue.path].reverse().find((part) => typeof part === 'string');
  return field ? `${field}: ${issue.message}.` : `${issue.message}.`;
}

/** @throws OrvidError `invalid-input` for an edit that no song could take: which field it is about, and what it may be */
export function checkEdit(edit: Edit): void {
  const parsed = editSchema.safeParse(edit);
  if (!parsed.success)
    throw new OrvidError('invalid-input', `This cannot be done. ${issueText(parsed.error)}`, 'Nothing was changed.');
}
