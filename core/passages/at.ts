import {
  equalizerWith,
  type Band,
  type FigureRef,
  type Passage,
  type PassageChange,
  type Settings,
  type Strip,
} from '../song';
import {
  figuresOf,
  isInSteps,
  neutralBand,
  partIn,
  valueOf,
  withValue,
  type FigurePart,
  type FigureScale,
} from './figures';

/** What of a passage is about one strip. */
export interface StripPassage {
  passage: Passage;
  changes: readonly PassageChange[];
}

const indexed = new WeakMap<readonly Passage[], ReadonlyMap<string, readonly StripPassage[]>>();

/** Passages that are on, by the strips that they change; where several hold at once the later one comes last, and stands. */
export function passagesByStrip(passages: readonly Passage[]): ReadonlyMap<string, readonly StripPassage[]> {
  const known = indexed.get(passages);
  if (known) return known;
  const byStrip = new Map<string, StripPassage[]>();
  for (const passage of inOrder(passages)) {
    const own = new Map<string, PassageChange[]>();
    for (const change of passage.changes) {
      const { stripId } = change.figure;
      if (!own.has(stripId)) own.set(stripId, []);
      own.get(stripId)!.push(change);
    }
    for (const [stripId, changes] of own) {
      if (!byStrip.has(stripId)) byStrip.set(stripId, []);
      byStrip.get(stripId)!.push({ passage, changes });
    }
  }
  indexed.set(passages, byStrip);
  return byStrip;
}

/** Those that are on, by their beginnings. */
export const inOrder = (passages: readonly Passage[]): Passage[] =>
  passages.filter(({ enabled }) => enabled).sort((first, second) => first.startSeconds - second.startSeconds);

/** True from its beginning on, until its end. */
export const holdsAt = ({ startSeconds, endSeconds }: Passage, seconds: number): boolean =>
  seconds >= startSeconds && seconds < endSeconds;

/** How far the figures of a passage are on their way from the song's to its own: 0 to 1. */
export function shareAt({ startSeconds, endSeconds, fadeInSeconds, fadeOutSeconds }: Passage, seconds: number): number {
  const since = seconds - startSeconds;
  const left = endSeconds - seconds;
  const rising = fadeInSeconds > 0 ? since / fadeInSeconds : 1;
  const falling = fadeOutSeconds > 0 ? left / fadeOutSeconds : 1;
  return Math.min(1, Math.max(0, Math.min(rising, falling)));
}

/** Between two values of a figure, straight on its scale. @param share 0 to 1 */
export function between({ scale }: Pick<FigureScale, 'scale'>, from: number, to: number, share: number): number {
  if (share <= 0) return from;
  if (share >= 1) return to;
  return scale === 'logarithmic' ? from * (to / from) ** share : from + share * (to - from);
}

const within = ({ min, max }: FigureScale, value: number) => Math.min(max, Math.max(min, value));

/** Steps of an equalizer of linear phase, each of which is a kernel of its own: of an octave, a decibel, a whole range; and the most from one value to another. */
const KERNELS = { perOctave: 3, perDb: 2 / 3, perRange: 8, most: 16 };

/** As {@link between}, in steps: the nearest to where it would be. */
function inSteps(figure: FigureScale, from: number, to: number, share: number): number {
  const apart =
    figure.scale === 'logarithmic'
      ? KERNELS.perOctave * Math.abs(Math.log2(to / from))
      : Math.abs(to - from) * (figure.unit === 'dB' ? KERNELS.perDb : KERNELS.perRange / (figure.max - figure.min));
  const steps = Math.min(KERNELS.most, Math.max(1, Math.ceil(apart)));
  return between(figure, from, to, Math.round(share * steps) / steps);
}

/**
 * What a line is so many seconds after its passage begins: straight from point to point, level before the first and after the last.
 * @param on how it goes from point to point
 */
export function lineAt(
  figure: FigureScale,
  points: PassageChange['points'],
  seconds: number,
  on: typeof inSteps = between,
): number {
  const next = points.findIndex(({ atSeconds }) => atSeconds > seconds);
  if (next < 0) return points[points.length - 1].value;
  if (next === 0) return points[0].value;
  const [first, second] = [points[next - 1], points[next]];
  return on(figure, first.value, second.value, (seconds - first.atSeconds) / (second.atSeconds - first.atSeconds));
}

/** The strip with one of its parts changed. */
function withPart(strip: Strip, { of, partId }: FigureRef, change: <P extends FigurePart>(part: P) => P): Strip {
  if (of === 'strip') return change(strip);
  if (of === 'send')
    return 'sends' in strip
      ? { ...strip, sends: strip.sends.map((send) => (send.busId === partId ? change(send) : send)) }
      : strip;
  const equalizer = of === 'band' ? equalizerWith(strip, partId) : undefined;
  const chain = strip.chain.map((processor) => {
    if (of === 'processor') return processor.id === partId ? change(processor) : processor;
    if (processor !== equalizer) return processor;
    return { ...equalizer, bands: equalizer.bands.map((band) => (band.id === partId ? change(band) : band)) };
  });
  return { ...strip, chain };
}

/** What a figure comes from: the song, or, of a band that the passage switches on, what it is without an effect. */
function origin(part: FigurePart, ref: FigureRef, changes: readonly PassageChange[]): FigurePart {
  if (ref.of !== 'band' || (part as Band).enabled) return part;
  const isSwitchedOn = changes.some(
    ({ figure, value }) => figure.partId === ref.partId && figure.field === 'enabled' && value === true,
  );
  return isSwitchedOn ? neutralBand(part as Band) : part;
}

/**
 * A strip as some passages make it at a moment. Figures that are gone are passed over.
 * @param strip as it is in the song
 * @param passages what holds, later ones last; whether it does is not asked, so that both sides of a border can be seen
 */
export function stripWithin(strip: Strip, passages: readonly StripPassage[], seconds: number): Strip {
  let now = strip;
  for (const { passage, changes } of passages) {
    const share = shareAt(passage, seconds);
    const since = seconds - passage.startSeconds;
    let next = now;
    for (const { figure: ref, value, points } of changes) {
      const part = partIn(now, ref);
      const figure = part && figuresOf(ref.of, part)[ref.field];
      if (!figure) continue;
      const steps = isInSteps(strip, ref);
      let wanted: number | boolean;
      if (figure.kind === 'switch') {
        const fadesIn = origin(part, ref, changes) !== part;
        if (typeof value !== 'boolean' || (steps && !fadesIn && share < 0.5)) continue;
        wanted = value;
      } else {
        const on = steps ? inSteps : between;
        const to = points.length === 0 ? value : lineAt(figure, points, since, on);
        if (typeof to !== 'number') continue;
        const from = valueOf(origin(part, ref, changes), ref.field) as number;
        wanted = within(figure, on(figure, from, within(figure, to), share));
      }
      next = withPart(next, ref, (own) => withValue(own, ref.field, wanted));
    }
    // A band that fades in is a whole one: what the passage does not name of it comes from where it has no effect.
    now = withFadedBands(next, now, changes, share);
  }
  return now;
}

/** What a band is heard by, of the figures that fade it in. */
const AUDIBLE = ['gainDb', 'frequencyHz', 'boostDb', 'cutDb'] as const;

function withFadedBands(next: Strip, before: Strip, changes: readonly PassageChange[], share: number): Strip {
  if (share >= 1) return next;
  let strip = next;
  for (const { figure: ref, value } of changes) {
    if (ref.of !== 'band' || ref.field !== 'enabled' || value !== true) continue;
    const band = partIn(before, ref) as Band | undefined;
    if (!band || band.enabled) continue;
    const neutral = neutralBand(band);
    const named = changes.filter(({ figure }) => figure.partId === ref.partId).map(({ figure }) => figure.field);
    for (const field of AUDIBLE) {
      if (neutral[field] === band[field] || named.includes(field)) continue;
      const figure = figuresOf('band', band)[field] as FigureScale;
      const on = isInSteps(strip, ref) ? inSteps : between;
      strip = withPart(strip, ref, (own) => withValue(own, field, on(figure, neutral[field], band[field], share)));
    }
  }
  return strip;
}

/** What holds of a strip's passages at a moment. */
export const holding = (passages: readonly StripPassage[], seconds: number): StripPassage[] =>
  passages.filter(({ passage }) => holdsAt(passage, seconds));

/** A strip as it was worked out for a moment; `seconds` is no number where nothing of it moves. */
interface Seen {
  passages: readonly StripPassage[];
  seconds: number;
  strip: Strip;
}
const seen = new WeakMap<Strip, Seen[]>();
/** So many moments of a strip are kept: who looks all over a song again and again finds the same objects. */
const MOST_SEEN = 96;

const isOf = ({ passages }: Seen, now: readonly StripPassage[]) =>
  passages.length === now.length && passages.every(({ passage }, i) => passage === now[i].passage);

function stripAt<S extends Strip>(strip: S, passages: readonly StripPassage[] | undefined, seconds: number): S {
  const now = passages ? holding(passages, seconds) : [];
  if (now.length === 0) return strip;
  const isStill = now.every(
    ({ passage, changes }) => shareAt(passage, seconds) === 1 && changes.every(({ points }) => points.length === 0),
  );
  const moment = isStill ? NaN : seconds;
  const kept = seen.get(strip) ?? [];
  const known = kept.find((seen) => Object.is(seen.seconds, moment) && isOf(seen, now));
  if (known) return known.strip as S;
  const next = stripWithin(strip, now, seconds) as S;
  seen.set(strip, [{ passages: now, seconds: moment, strip: next }, ...kept].slice(0, MOST_SEEN));
  return next;
}

/** The song as it is at a moment: what holds there in the place of what the passages change. @param seconds of the song */
export function settingsAt<S extends Settings>(song: S, seconds: number): S {
  const byStrip = passagesByStrip(song.passages);
  if (
    byStrip.size === 0 ||
    ![...byStrip.values()].some((list) => list.some(({ passage }) => holdsAt(passage, seconds)))
  )
    return song;
  const at = <T extends Strip>(strip: T) => stripAt(strip, byStrip.get(strip.id), seconds);
  return { ...song, tracks: song.tracks.map(at), buses: song.buses.map(at), master: at(song.master) };
}
