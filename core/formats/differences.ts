import {
  isPassFilter,
  MASTER_ID,
  type Band,
  type Chain,
  type ChainProcessor,
  type Equalizer,
  type Settings,
  type Strip,
  type Track,
} from '../song';
import { processorFields, processorName, processorSummary } from './processor-words';
import {
  bandSummary,
  writeDelay,
  writeFrequency,
  writeGain,
  writeNumber,
  writePan,
  writeSlope,
  writeWidth,
} from './typed-values';

/** `80 → 110 Hz`: the unit once, where both have the same. */
function arrow(before: string, after: string): string {
  const unit = /\s(Hz|kHz|dB|dB\/oct|oct)$/;
  const sameUnit = unit.exec(before)?.[1] === unit.exec(after)?.[1];
  return `${sameUnit ? before.replace(unit, '') : before} → ${after}`;
}

const kindName = (band: Pick<Band, 'type'>) => (isPassFilter(band.type) ? band.type : band.type.replace('-', ' '));

/** What is said of a field that differs. */
const BAND_FIELDS: { [K in keyof Band]?: (band: Band) => string } = {
  type: kindName,
  frequencyHz: (band) => writeFrequency(band.frequencyHz),
  gainDb: (band) => writeGain(band.gainDb),
  boostDb: (band) => `boost ${writeNumber(band.boostDb)} dB`,
  cutDb: (band) => `cut ${writeNumber(band.cutDb)} dB`,
  q: (band) => writeWidth(band.q),
  order: (band) => writeSlope(band.order),
  family: (band) => band.family,
  rippleDb: (band) => `ripple ${writeNumber(band.rippleDb, 2)} dB`,
  stopbandDb: (band) => `floor ${writeNumber(-band.stopbandDb, 0)} dB`,
  channel: (band) => `on ${band.channel}`,
  end: (band) => band.end,
  limits: ({ limits }) =>
    limits ? `kept in ${writeFrequency(limits.minHz)} to ${writeFrequency(limits.maxHz)}` : 'free',
  note: ({ note }) => `“${note}”`,
  givesWay: ({ givesWay }) =>
    givesWay ? `gives way by ${writeGain(givesWay.amountDb)} above ${writeGain(givesWay.thresholdDb)}` : 'stays',
};

function bandDifferences(before: Equalizer, after: Equalizer): string[] {
  const named = (band: Band) => {
    const alike = [...before.bands, ...after.bands].filter(({ id, type }) => id !== band.id && type === band.type);
    return alike.length > 0 ? `${kindName(band)} ${band.letter}` : kindName(band);
  };
  const lines: string[] = [];
  for (const band of after.bands) {
    const old = before.bands.find(({ id }) => id === band.id);
    if (!old) {
      lines.push(`${named(band)} added, ${bandSummary(band)}`);
      continue;
    }
    if (old.enabled !== band.enabled) lines.push(`${named(band)} ${band.enabled ? 'on' : 'off'}`);
    for (const [field, write] of Object.entries(BAND_FIELDS) as [keyof Band, (band: Band) => string][]) {
      if (JSON.stringify(old[field]) !== JSON.stringify(band[field]))
        lines.push(`${named(band)} ${arrow(write(old), write(band))}`);
    }
  }
  for (const old of before.bands)
    if (!after.bands.some(({ id }) => id === old.id)) lines.push(`${named(old)} removed, ${bandSummary(old)}`);
  return lines;
}

function equalizerDifferences(before: Equalizer, after: Equalizer): string[] {
  const lines = bandDifferences(before, after);
  if (before.enabled !== after.enabled) lines.push(`equalizer ${after.enabled ? 'on' : 'off'}`);
  if (before.phase !== after.phase) lines.push(`phase ${arrow(before.phase, after.phase)}`);
  if (before.outputGainDb !== after.outputGainDb)
    lines.push(`output ${arrow(writeGain(before.outputGainDb), writeGain(after.outputGainDb))}`);
  return lines;
}

function stripDifferences(before: Strip, after: Strip, nameOf: (stripId: string) => string): string[] {
  const lines: string[] = [];
  const fields = { before: before as Partial<Track>, after: after as Partial<Track> };
  const differs = (field: keyof Track) =>
    field in before && field in after && JSON.stringify(fields.before[field]) !== JSON.stringify(fields.after[field]);
  const tell = <K extends keyof Track>(field: K, label: string, write: (value: Track[K]) => string) => {
    if (differs(field))
      lines.push(`${label} ${arrow(write(fields.before[field] as Track[K]), write(fields.after[field] as Track[K]))}`);
  };
  const tellState = (field: 'muted' | 'soloed' | 'polarityInverted', on: string, off: string) => {
    if (differs(field)) lines.push(fields.after[field] ? on : off);
  };
  tell('name', 'name', (name) => `“${name}”`);
  tell('gainDb', 'level', writeGain);
  tell('pan', 'position', writePan);
  tell('midDb', 'middle', writeGain);
  tell('sideDb', 'sides', writeGain);
  tell('delayMs', 'delay', writeDelay);
  tellState('polarityInverted', 'polarity turned', 'polarity as recorded');
  tellState('muted', 'muted', 'no longer muted');
  tellState('soloed', 'solo', 'no longer solo');
  tell('outputId', 'into', nameOf);
  tell('part', 'part', (part) => `“${part}”`);
  tell('ink', 'colour', (ink) => `ink ${ink + 1}`);
  tell('sends', 'sends', (sends) => String(sends.length));
  tell('claims', 'claims', (claims) => String(claims.length));
  return [...lines, ...chainDifferences(before.chain, after.chain, nameOf)];
}

const wordOf = (processor: ChainProcessor) => processorName(processor).toLowerCase();
const sizeOf = (processor: ChainProcessor) =>
  processor.kind === 'equalizer' ? `${processor.bands.length} bands` : processorSummary(processor);

function processorDifferences(
  before: ChainProcessor,
  after: ChainProcessor,
  nameOf: (stripId: string) => string,
): string[] {
  if (before.kind === 'equalizer' || after.kind === 'equalizer')
    return before.kind === 'equalizer' && after.kind === 'equalizer' ? equalizerDifferences(before, after) : [];
  const lines: string[] = [];
  const word = wordOf(after);
  if (before.enabled !== after.enabled) lines.push(`${word} ${after.enabled ? 'on' : 'off'}`);
  const old = new Map(processorFields(before, nameOf));
  for (const [label, text] of processorFields(after, nameOf))
    if (old.get(label) !== text) lines.push(`${word} ${label} ${arrow(old.get(label) ?? '', text)}`);
  return lines;
}

function chainDifferences(before: Chain, after: Chain, nameOf: (stripId: string) => string): string[] {
  const lines = after.flatMap((processor) => {
    const old = before.find(({ id }) => id === processor.id);
    if (!old) return [`${wordOf(processor)} added, ${sizeOf(processor)}`];
    const renamed =
      old.name === processor.name ? [] : [`${wordOf(old)} is called ${arrow(`“${old.name}”`, `“${processor.name}”`)}`];
    return [...renamed, ...processorDifferences(old, processor, nameOf)];
  });
  for (const old of before)
    if (!after.some(({ id }) => id === old.id)) lines.push(`${wordOf(old)} removed, ${sizeOf(old)}`);
  const shared = (chain: Chain, other: Chain) =>
    chain.map(({ id }) => id).filter((id) => other.some((p) => p.id === id));
  if (shared(before, after).join() !== shared(after, before).join())
    lines.push(`order ${arrow(before.map(wordOf).join(', '), after.map(wordOf).join(', '))}`);
  return lines;
}

/**
 * What differs between two states of a song, in words: `Cello: high-pass 80 → 110 Hz`. A line for each thing, in the order of the
 * tracks of the later state; nothing where they are alike.
 */
export function describeDifferences(before: Settings, after: Settings): string[] {
  const strips = ({ tracks, buses, master }: Settings): Strip[] => [...tracks, ...buses, master];
  const nameOf = (strip: Strip) => ('name' in strip ? strip.name : 'Master');
  const all = [...strips(after), ...strips(before)];
  const nameById = (stripId: string) => {
    const found = all.find(({ id }) => id === stripId);
    return found && stripId !== MASTER_ID ? nameOf(found) : 'the master';
  };
  const lines = strips(after).flatMap((strip) => {
    const old = strips(before).find(({ id }) => id === strip.id);
    if (!old) return [`${nameOf(strip)}: added`];
    if (old === strip) return [];
    return stripDifferences(old, strip, nameById).map((line) => `${nameOf(strip)}: ${line}`);
  });
  for (const old of strips(before))
    if (!strips(after).some(({ id }) => id === old.id)) lines.push(`${nameOf(old)}: removed`);
  const order = (settings: Settings) => settings.tracks.map(({ id }) => id).join();
  if (lines.length === 0 && order(before) !== order(after)) lines.push('The order of the tracks');
  return lines;
}
