import * as z from 'zod';
import { OrvidError } from '../errors';
import { qFromBandwidth, type EqualizerSettings } from '../filters';
import { BAND_DEFAULTS, GAIN_RANGE_DB, hasGain, Q_RANGE, type BandSettings } from '../song/band';
import { bandFields, phaseSchema, type EqualizerPhase } from '../song/schema';

/** Which fields say anything, by type; a field that means nothing for its band is an error, not a silent ornament. */
const COMMON = ['type', 'frequencyHz', 'channel', 'enabled', 'limits', 'note'];
const BANDWIDTH_TYPES = ['bell', 'notch', 'band-pass'];

function meaningful(band: { type: BandSettings['type']; family?: BandSettings['family'] }): string[] {
  const isPass = band.type === 'high-pass' || band.type === 'low-pass';
  const fields = [...COMMON];
  if (hasGain(band.type)) fields.push('gainDb');
  if (BANDWIDTH_TYPES.includes(band.type)) fields.push('bandwidthOct');
  if (['bell', 'low-shelf', 'high-shelf', 'notch', 'band-pass', 'all-pass'].includes(band.type)) fields.push('q');
  if (band.type === 'twin-shelf') fields.push('boostDb', 'cutDb', 'end');
  if (!isPass) return fields;
  const family = band.family ?? 'butterworth';
  fields.push('family', 'order');
  if (family === 'resonant') fields.push('q');
  if (family === 'chebyshev-1' || family === 'elliptic') fields.push('rippleDb');
  if (family === 'chebyshev-2' || family === 'elliptic') fields.push('stopbandDb');
  return fields;
}

const fileBandSchema = z
  .strictObject(bandFields)
  .partial()
  .required({ type: true, frequencyHz: true })
  .extend({ bandwidthOct: z.number().min(0.02).max(8).optional() })
  .superRefine((band, context) => {
    const allowed = meaningful(band);
    for (const key of Object.keys(band)) {
      if (!allowed.includes(key)) {
        context.addIssue({ code: 'custom', path: [key], message: `means nothing for a ${describe(band)}` });
      }
    }
    if (band.q !== undefined && band.bandwidthOct !== undefined) {
      context.addIssue({
        code: 'custom',
        path: ['bandwidthOct'],
        message: 'stands in place of q: give only one of them',
      });
    }
    if (band.family === 'linkwitz-riley' && (band.order ?? 2) % 2 === 1) {
      context.addIssue({ code: 'custom', path: ['order'], message: 'must be even for linkwitz-riley' });
    }
    if (band.family === 'elliptic' && (band.stopbandDb ?? 40) < (band.rippleDb ?? 1) + 1) {
      context.addIssue({ code: 'custom', path: ['stopbandDb'], message: 'must be at least 1 dB more than rippleDb' });
    }
    if (band.family === 'resonant' && ((band.order ?? 2) < 2 || (band.order ?? 2) > 8)) {
      context.addIssue({ code: 'custom', path: ['order'], message: 'must be 2 to 8 for resonant' });
    }
  });

const describe = (band: { type: string; family?: string }) =>
  band.family ? `${band.type} of family ${band.family}` : band.type;

/** The equalizer file, version 1. `docs/schema/` holds the JSON Schema that is derived from it. */
export const equalizerFileSchema = z.strictObject({
  format: z.literal('orvid.eq'),
  version: z.literal(1),
  phase: phaseSchema.default('minimum'),
  outputGainDb: z.number().min(GAIN_RANGE_DB.min).max(GAIN_RANGE_DB.max).default(0),
  bands: z.array(fileBandSchema).max(64),
});

/** An equalizer as a file gives it, with every default filled in. */
export interface FileEqualizer extends EqualizerSettings {
  phase: EqualizerPhase;
  bands: BandSettings[];
}

function refuse(fileName: string, field: string, problem: string): OrvidError {
  return new OrvidError('invalid-input', `${fileName}: ${field}: ${problem}. Nothing was read from it.`);
}

/**
 * Reads an equalizer file.
 * @param text the file's content
 * @param fileName names the file in messages
 * @throws OrvidError `invalid-input` with file, field and what was expected
 */
export function parseEqualizerFile(text: string, fileName: string): FileEqualizer {
  let json: unknown;
  try {
    json = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (error) {
    throw refuse(fileName, 'content', `is not JSON (${(error as Error).message})`);
  }
  const head = json as { format?: unknown; version?: unknown } | null;
  if (head?.format !== 'orvid.eq')
    throw refuse(fileName, 'format', `expected "orvid.eq", found ${JSON.stringify(head?.format)}`);
  if (head.version !== 1) throw refuse(fileName, 'version', `expected 1, found ${JSON.stringify(head.version)}`);
  const parsed = equalizerFileSchema.safeParse(json);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    throw refuse(fileName, fieldName(issue.path), issue.message);
  }
  const { phase, outputGainDb } = parsed.data;
  const bands = parsed.data.bands.map((fileBand, i) => {
    const { bandwidthOct, ...given } = fileBand;
    const width =
      bandwidthOct === undefined
        ? {}
        : { q: Math.min(Q_RANGE.max, Math.max(Q_RANGE.min, qFromBandwidth(bandwidthOct))) };
    const band: BandSettings = { ...BAND_DEFAULTS, ...given, ...width };
    const { limits } = band;
    if (limits && (band.frequencyHz < limits.minHz || band.frequencyHz > limits.maxHz)) {
      throw refuse(fileName, `bands[${i}].frequencyHz`, `${band.frequencyHz} lies outside the band's own limits`);
    }
    return band;
  });
  return { phase, outputGainDb, bands };
}

function fieldName(path: readonly PropertyKey[]): string {
  return path.reduce<string>(
    (text, key) => (typeof key === 'number' ? `${text}[${key}]` : text ? `${text}.${String(key)}` : String(key)),
    '',
  );
}

/** The JSON Schema of the equalizer file. */
export function equalizerJsonSchema(): unknown {
  return z.toJSONSchema(equalizerFileSchema, { io: 'input' });
}

/** Writes an equalizer file: only what says something, in the order of the bands. */
export function writeEqualizerFile(equalizer: FileEqualizer): string {
  const bands = equalizer.bands.map((band) => {
    const allowed = meaningful(band);
    const entries = Object.entries(band).filter(
      ([key, value]) =>
        allowed.includes(key) && !(key === 'limits' && value === null) && !(key === 'note' && value === ''),
    );
    return Object.fromEntries(entries);
  });
  const { phase, outputGainDb } = equalizer;
  return `${JSON.stringify({ format: 'orvid.eq', version: 1, phase, outputGainDb, bands }, null, 2)}\n`;
}
