import { OrvidError } from '../errors';
import {
  batch,
  changesNothing,
  equalizersOf,
  figureKey,
  findStrip,
  type Band,
  type Edit,
  type FigureRef,
  type Passage,
  type PassageChange,
  type PassageValue,
  type Send,
  type SingleEdit,
  type Song,
  type Strip,
} from '../song';
import { lineAt } from './at';
import { figureOf, figuresOf, partOf, valueOf, type FigureScale } from './figures';

/** The passage that is open, and where in the song its figures are set. */
export interface OpenPassage {
  passageId: string;
  seconds: number;
}

const same = (what: string) =>
  new OrvidError(
    'invalid-input',
    `${what} is the same all through the song, and a passage is open.`,
    'Nothing was changed. Close the passage (Escape), then change it.',
  );

/** The passage; undefined where it is gone. */
const passageOf = (song: Song, passageId: string): Passage | undefined =>
  song.passages.find(({ id }) => id === passageId);

/** The line of a figure moved as a whole, so that it passes through a value at a moment. */
function shifted(
  figure: FigureScale,
  points: PassageChange['points'],
  sinceSeconds: number,
  value: number,
): PassageChange['points'] {
  const from = lineAt(figure, points, sinceSeconds);
  const within = (moved: number) => Math.min(figure.max, Math.max(figure.min, moved));
  return points.map((point) => ({
    ...point,
    value: within(figure.scale === 'logarithmic' ? (point.value * value) / from : point.value + value - from),
  }));
}

/** The edit that sets a figure in a passage; what is as in the song is no change of it. */
export function setFigure(
  song: Song,
  { passageId, seconds }: OpenPassage,
  ref: FigureRef,
  value: number | boolean,
): SingleEdit | null {
  const passage = passageOf(song, passageId);
  const part = partOf(song, ref);
  const figure = figureOf(song, ref);
  if (!passage || !part || !figure) return null;
  const known = passage.changes.find((change) => figureKey(change.figure) === figureKey(ref));
  const edit = (to: PassageValue | null): SingleEdit => ({
    kind: 'passage.figure',
    passageId,
    figure: ref,
    changes: { to },
  });
  if (known && known.points.length > 0 && typeof value === 'number' && figure.kind === 'figure') {
    const since = Math.min(passage.endSeconds, Math.max(passage.startSeconds, seconds)) - passage.startSeconds;
    const points = shifted(figure, known.points, since, value);
    return edit({ value: points[0].value, points });
  }
  // Beside another passage that sets it too, to be as in the song is a difference of its own.
  const isAlone = !song.passages.some(
    (other) =>
      other.id !== passageId &&
      other.startSeconds < passage.endSeconds &&
      passage.startSeconds < other.endSeconds &&
      other.changes.some((change) => figureKey(change.figure) === figureKey(ref)),
  );
  if (isAlone && valueOf(part, ref.field) === value) return known ? edit(null) : null;
  return edit({ value, points: [] });
}

/** Turns what is done while a passage is open into what belongs to it. */
class Capture {
  constructor(
    private readonly song: Song,
    private readonly open: OpenPassage,
  ) {}

  private figure(ref: FigureRef, value: number | boolean): Edit[] {
    const edit = setFigure(this.song, this.open, ref, value);
    return edit ? [edit] : [];
  }

  /** All that the passage sets of a part goes. */
  private without(stripId: string, partId: string): Edit[] {
    const { passageId } = this.open;
    const changes = passageOf(this.song, passageId)?.changes ?? [];
    return changes
      .filter(({ figure }) => figure.stripId === stripId && figure.partId === partId)
      .map(({ figure }) => ({ kind: 'passage.figure', passageId, figure, changes: { to: null } }));
  }

  /** True where no other passage has to do with a part. */
  private isOwn(stripId: string, partId: string): boolean {
    return this.song.passages.every(
      ({ id, changes }) =>
        id === this.open.passageId ||
        !changes.some(({ figure }) => figure.stripId === stripId && figure.partId === partId),
    );
  }

  /**
   * The changes of a part: its figures are the passage's, what may be told at any time is the song's.
   * @param free fields that are no sound
   * @param kept gives the edit of the song for these
   */
  private fields(
    ref: Omit<FigureRef, 'field'>,
    changes: Record<string, unknown>,
    free: readonly string[],
    kept: (changes: Record<string, unknown>) => Edit,
    what: string,
  ): Edit[] {
    const part = partOf(this.song, { ...ref, field: '' });
    const figures = part ? figuresOf(ref.of, part) : {};
    const edits: Edit[] = [];
    const passed: Record<string, unknown> = {};
    for (const [field, value] of Object.entries(changes)) {
      if (figures[field]) edits.push(...this.figure({ ...ref, field }, value as number | boolean));
      else if (free.includes(field)) passed[field] = value;
      else if (part && !changesNothing(valueOf(part, field), value)) throw same(what);
    }
    return Object.keys(passed).length > 0 ? [kept(passed), ...edits] : edits;
  }

  single(edit: SingleEdit): Edit[] {
    switch (edit.kind) {
      case 'strip.set':
        return this.strip(edit);
      case 'equalizer.set': {
        const { stripId, equalizerId } = edit;
        const ref = { stripId, of: 'processor' as const, partId: equalizerId };
        return this.fields(
          ref,
          edit.changes,
          ['name'],
          (changes) => ({ ...edit, changes }),
          'The phase of an equalizer',
        );
      }
      case 'band.set':
        return this.band(edit);
      case 'processor.set': {
        const { stripId, processorId } = edit;
        const ref = { stripId, of: 'processor' as const, partId: processorId };
        const kept = (changes: Record<string, unknown>) => ({ ...edit, changes }) as Edit;
        return this.fields(ref, edit.changes, ['name'], kept, 'How this processor is built, its key and its range');
      }
      case 'band.add': {
        const { stripId, band } = edit;
        const on: FigureRef = { stripId, of: 'band', partId: band.id, field: 'enabled' };
        return [{ ...edit, band: { ...band, enabled: false } }, ...(band.enabled ? [this.switchedOn(on)] : [])];
      }
      case 'processor.add': {
        const { stripId, processor } = edit;
        const on: FigureRef = { stripId, of: 'processor', partId: processor.id, field: 'enabled' };
        return [
          { ...edit, processor: { ...processor, enabled: false } },
          ...(processor.enabled ? [this.switchedOn(on)] : []),
        ];
      }
      case 'band.remove':
        return this.removed(edit, { stripId: edit.stripId, of: 'band', partId: edit.bandId, field: 'enabled' });
      case 'processor.remove':
        return this.removed(edit, {
          stripId: edit.stripId,
          of: 'processor',
          partId: edit.processorId,
          field: 'enabled',
        });
      case 'chain.set':
      case 'processor.move':
        throw same('The order of a chain');
      case 'settings.set':
      case 'draft.take':
        throw same('A whole set of settings');
      case 'track.remove':
      case 'bus.remove':
        throw same('Which tracks and groups there are');
      default:
        return [edit];
    }
  }

  /** Of what the song does not hold yet. */
  private switchedOn(figure: FigureRef): Edit {
    return {
      kind: 'passage.figure',
      passageId: this.open.passageId,
      figure,
      changes: { to: { value: true, points: [] } },
    };
  }

  /** Taken away within the passage: what the song has is off there, what is the passage's own goes. */
  private removed(edit: Edit, ref: FigureRef): Edit[] {
    const part = partOf(this.song, ref);
    if (!part) return [edit];
    if (valueOf(part, 'enabled')) return [...this.without(ref.stripId, ref.partId), ...this.figure(ref, false)];
    const own = this.without(ref.stripId, ref.partId);
    return this.isOwn(ref.stripId, ref.partId) ? [...own, edit] : own;
  }

  private strip(edit: Extract<SingleEdit, { kind: 'strip.set' }>): Edit[] {
    const { stripId } = edit;
    const { sends, ...changes } = edit.changes;
    const free = ['name', 'ink', 'part', 'claims', 'soloed'];
    const ref = { stripId, of: 'strip' as const, partId: '' };
    const fields = this.fields(
      ref,
      changes,
      free,
      (kept) => ({ ...edit, changes: kept }),
      'Where a track is led to, and its delay',
    );
    const strip = findStrip(this.song, stripId);
    return sends && strip && 'sends' in strip ? [...fields, ...this.sends(strip, sends)] : fields;
  }

  private sends(strip: Extract<Strip, { sends: Send[] }>, wanted: readonly Send[]): Edit[] {
    const ref = (busId: string, field: string): FigureRef => ({ stripId: strip.id, of: 'send', partId: busId, field });
    const added = wanted.filter(({ busId }) => !strip.sends.some((send) => send.busId === busId));
    const edits: Edit[] = [];
    if (added.length > 0) {
      const sends = [...strip.sends, ...added.map((send) => ({ ...send, enabled: false }))];
      edits.push({ kind: 'strip.set', stripId: strip.id, changes: { sends } });
      edits.push(...added.map(({ busId }) => this.switchedOn(ref(busId, 'enabled'))));
    }
    for (const send of strip.sends) {
      const now = wanted.find(({ busId }) => busId === send.busId);
      if (now && now.tap !== send.tap) throw same('Where a send is taken');
      edits.push(...this.figure(ref(send.busId, 'enabled'), now?.enabled ?? false));
      if (now) edits.push(...this.figure(ref(send.busId, 'gainDb'), now.gainDb));
    }
    return edits;
  }

  private band(edit: Extract<SingleEdit, { kind: 'band.set' }>): Edit[] {
    const { stripId, bandId } = edit;
    const { givesWay, ...changes } = edit.changes;
    const ref = { stripId, of: 'band' as const, partId: bandId };
    const edits = this.fields(
      ref,
      changes,
      ['note', 'letter', 'limits'],
      (kept) => ({ ...edit, changes: kept }),
      'What kind of filter a band is',
    );
    if (givesWay === undefined) return edits;
    const own = (partOf(this.song, { ...ref, field: '' }) as Band | undefined)?.givesWay;
    if (!own || !givesWay || !changesNothing(own.key, givesWay.key ?? {}))
      throw same('Whether a band gives way, and to what');
    const { key: _, ...figures } = givesWay;
    return [
      ...edits,
      ...Object.entries(figures).flatMap(([field, value]) =>
        this.figure({ ...ref, field: `givesWay.${field}` }, value),
      ),
    ];
  }
}

/**
 * What is done while a passage is open as what belongs to it: its figures and switches are set in the passage, bands and processors that are
 * added are off in the rest of the song, and what is no sound, such as a name, is the song's.
 * @param song the document, without what the passage makes of it
 * @returns null where nothing is left to do
 * @throws OrvidError `invalid-input` for what cannot differ within a song: which, and what to do
 */
export function capture(song: Song, open: OpenPassage, edit: Edit): Edit | null {
  if (!passageOf(song, open.passageId)) return edit;
  const capturing = new Capture(song, open);
  const singles = edit.kind === 'batch' ? edit.edits : [edit];
  return batch(singles.flatMap((single) => capturing.single(single)));
}

/** True where an equalizer of linear phase takes what a passage sets in steps. */
export const hasSteps = (song: Song, { changes }: Passage): boolean =>
  changes.some(({ figure }) => {
    const strip = findStrip(song, figure.stripId);
    return (
      strip !== undefined &&
      equalizersOf(strip.chain).some(
        ({ id, phase, bands }) =>
          phase === 'linear' && (id === figure.partId || bands.some((band) => band.id === figure.partId)),
      )
    );
  });
