import {
  BAND_DEFAULTS,
  equalizerWith,
  FADER_RANGE_DB,
  FIGURES,
  findStrip,
  FREQUENCY_RANGE_HZ,
  GAIN_RANGE_DB,
  GIVES_WAY,
  hasGain,
  Q_RANGE,
  TWIN_RANGE_DB,
  type Band,
  type ChainProcessor,
  type Figure,
  type FigureRef,
  type Send,
  type Settings,
  type Strip,
} from '../song';

/** What a passage may set: a figure on its scale, or a switch. */
export type PassageFigure = { kind: 'switch'; label: string } | ({ kind: 'figure'; label: string } & FigureScale);

export interface FigureScale {
  min: number;
  max: number;
  unit: Figure['unit'];
  /** Lines between points, and fades, are straight on this. */
  scale: 'linear' | 'logarithmic';
}

const linear = (
  label: string,
  { min, max }: { min: number; max: number },
  unit: Figure['unit'] = 'dB',
): PassageFigure => ({
  kind: 'figure',
  label,
  min,
  max,
  unit,
  scale: 'linear',
});
const ratio = (
  label: string,
  { min, max }: { min: number; max: number },
  unit: Figure['unit'] = '',
): PassageFigure => ({
  kind: 'figure',
  label,
  min,
  max,
  unit,
  scale: 'logarithmic',
});
const turns = (label: string): PassageFigure => ({ kind: 'switch', label });

const STRIP: Record<string, PassageFigure> = {
  gainDb: linear('level', FADER_RANGE_DB),
  pan: linear('position', { min: -1, max: 1 }, ''),
  midDb: linear('middle', FADER_RANGE_DB),
  sideDb: linear('sides', FADER_RANGE_DB),
  polarityInverted: turns('polarity'),
  muted: turns('mute'),
};
const SEND: Record<string, PassageFigure> = { gainDb: linear('level', FADER_RANGE_DB), enabled: turns('on') };
const EQUALIZER: Record<string, PassageFigure> = {
  enabled: turns('on'),
  outputGainDb: linear('output', GAIN_RANGE_DB),
};
const BAND: Record<string, PassageFigure> = {
  enabled: turns('on'),
  frequencyHz: ratio('frequency', FREQUENCY_RANGE_HZ, 'Hz'),
  gainDb: linear('gain', GAIN_RANGE_DB),
  q: ratio('Q', Q_RANGE),
  rippleDb: linear('ripple', { min: 0.01, max: 12 }),
  stopbandDb: linear('stopband', { min: 10, max: 120 }),
  boostDb: linear('boost', TWIN_RANGE_DB),
  cutDb: linear('cut', TWIN_RANGE_DB),
};

const fromFigure = ({ label, min, max, unit, scale }: Figure): PassageFigure => ({
  kind: 'figure',
  label: label.toLowerCase(),
  min,
  max,
  unit,
  scale,
});

/** Figures of processors that decide how they are built, or how late they are: the same all through a song. */
const BUILT_IN = [
  'lookAheadMs',
  'sizePercent',
  'preDelayMs',
  'densityPercent',
  'decaySeconds',
  'lowRatio',
  'lowHz',
  'highRatio',
  'highHz',
];

function processorFigures(kind: ChainProcessor['kind']): Record<string, PassageFigure> {
  if (kind === 'equalizer') return EQUALIZER;
  const figures = Object.entries<Figure>(FIGURES[kind]).filter(([field]) => !BUILT_IN.includes(field));
  return { enabled: turns('on'), ...Object.fromEntries(figures.map(([field, figure]) => [field, fromFigure(figure)])) };
}

const GIVING: Record<string, PassageFigure> = Object.fromEntries(
  Object.entries<Figure>(GIVES_WAY).map(([field, figure]) => [`givesWay.${field}`, fromFigure(figure)]),
);

/** What a figure belongs to, as it is in the song. */
export type FigurePart = Strip | Send | ChainProcessor | Band;

/** The send, processor or band of a strip, or the strip itself, that a figure belongs to; undefined where it is gone. */
export function partIn(strip: Strip, { of, partId }: FigureRef): FigurePart | undefined {
  if (of === 'strip') return strip;
  if (of === 'send') return 'sends' in strip ? strip.sends.find(({ busId }) => busId === partId) : undefined;
  if (of === 'processor') return strip.chain.find(({ id }) => id === partId);
  return equalizerWith(strip, partId)?.bands.find(({ id }) => id === partId);
}

/** The same in a whole song. */
export function partOf(settings: Settings, ref: FigureRef): FigurePart | undefined {
  const strip = findStrip(settings, ref.stripId);
  return strip && partIn(strip, ref);
}

/** What may be set of a part. */
export function figuresOf(of: FigureRef['of'], part: FigurePart): Record<string, PassageFigure> {
  if (of === 'strip') return 'sends' in part ? STRIP : { gainDb: STRIP.gainDb };
  if (of === 'send') return SEND;
  if (of === 'processor') return processorFigures((part as ChainProcessor).kind);
  return (part as Band).givesWay ? { ...BAND, ...GIVING } : BAND;
}

/** A figure of the song; null where it is gone, or nothing that a passage may set. */
export function figureOf(settings: Settings, ref: FigureRef): PassageFigure | null {
  const part = partOf(settings, ref);
  return (part && figuresOf(ref.of, part)[ref.field]) ?? null;
}

const GIVES = 'givesWay.';

/** What a figure is in a part. */
export function valueOf(part: FigurePart, field: string): number | boolean {
  const holder = field.startsWith(GIVES) ? (part as Band).givesWay : part;
  return (holder as unknown as Record<string, number | boolean>)[field.replace(GIVES, '')];
}

/** The part with a figure of another value. */
export function withValue<P extends FigurePart>(part: P, field: string, value: number | boolean): P {
  if (!field.startsWith(GIVES)) return { ...part, [field]: value };
  return { ...part, givesWay: { ...(part as Band).givesWay!, [field.replace(GIVES, '')]: value } };
}

/** The same as a band does while it does nothing: what one that a passage switches on fades in from. */
export function neutralBand(band: Band): Band {
  if (hasGain(band.type)) return { ...band, gainDb: BAND_DEFAULTS.gainDb };
  if (band.type === 'twin-shelf') return { ...band, boostDb: 0, cutDb: 0 };
  if (band.type === 'high-pass') return { ...band, frequencyHz: FREQUENCY_RANGE_HZ.min };
  if (band.type === 'low-pass') return { ...band, frequencyHz: FREQUENCY_RANGE_HZ.max };
  return band;
}

/** True for what moves in steps: an equalizer of linear phase is not designed anew while it sounds. */
export const isInSteps = (strip: Strip, { of, partId }: FigureRef): boolean => {
  const holder = of === 'band' ? equalizerWith(strip, partId) : strip.chain.find(({ id }) => id === partId);
  return holder?.kind === 'equalizer' && holder.phase === 'linear';
};
