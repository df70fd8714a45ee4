import {
  bandSummary,
  PROCESSOR_WORDS,
  processorFields,
  processorName,
  writeDelay,
  writeFrequency,
  writeGain,
  writeKey,
  writeLength,
  writeNumber,
  writePan,
} from '../formats';
import { logSpacedHz } from '../filters';
import { chainPowerDb } from '../measure';
import { describeChanges } from '../passages';
import {
  equalizersOf,
  givesWay,
  isReturn,
  MASTER_ID,
  songLengthFrames,
  stripChannels,
  type Band,
  type Bus,
  type ChainProcessor,
  type Settings,
  type Song,
  type Strip,
  type Track,
} from '../song';

/** One thing that is set, in words. */
export interface RecallLine {
  /** What it is: “level”, “band A, bell”. */
  label: string;
  /** How it is set: “−3.0 dB”. */
  text: string;
  /** Why, in the engineer's words; empty where nothing was written. */
  why: string;
}

/** A processor of a chain with what is set of it. */
export interface RecallProcessor {
  name: string;
  isOn: boolean;
  lines: RecallLine[];
}

/** All that is set of a track, group, return or the master. */
export interface RecallStrip {
  id: string;
  name: string;
  kind: 'track' | 'group' | 'return' | 'master';
  /** Level, position, where it runs to, what is claimed; what is as it was at first is left out. */
  lines: RecallLine[];
  processors: RecallProcessor[];
  /** What its equalizers do together, dB at {@link CURVE_HZ}; null where they do nothing. */
  curveDb: number[] | null;
}

/** A passage in words. */
export interface RecallPassage {
  name: string;
  when: string;
  isOn: boolean;
  changes: string[];
}

/** A whole song, or some of its tracks, in words and numbers. */
export interface Recall {
  title: string;
  /** What of it: nothing for the song as it stands, or the name of a draft. */
  state: string;
  lines: RecallLine[];
  strips: RecallStrip[];
  passages: RecallPassage[];
}

/** What is measured of a strip, where it was. */
export type RecallClearances = Readonly<
  Record<string, { clearanceDb: number; onTop: number; isEstimated?: boolean } | null | undefined>
>;

/** Frequencies of the curves. */
export const CURVE_HZ: readonly number[] = [...logSpacedHz(20, 20000, 121)];

const line = (label: string, text: string, why = ''): RecallLine => ({ label, text, why });

const KIND_WORDS: Partial<Record<Band['type'], string>> = { 'high-pass': 'high-pass', 'low-pass': 'low-pass' };
const kindWord = ({ type }: Band) => KIND_WORDS[type] ?? type.replace('-', ' ');

function bandLine(band: Band, nameOf: (stripId: string) => string): RecallLine {
  const more = [
    band.channel === 'stereo' ? '' : `on ${band.channel}`,
    (band.type === 'high-pass' || band.type === 'low-pass') && band.family !== 'butterworth' ? band.family : '',
    band.limits ? `kept in ${writeFrequency(band.limits.minHz)} to ${writeFrequency(band.limits.maxHz)}` : '',
    givesWay(band)
      ? `gives way by ${writeGain(band.givesWay.amountDb)} above ${writeGain(band.givesWay.thresholdDb)}, heard from ${writeKey(band.givesWay.key, nameOf)}`
      : '',
    band.enabled ? '' : 'off',
  ].filter(Boolean);
  return line(`${band.letter}, ${kindWord(band)}`, [bandSummary(band), ...more].join(', '), band.note);
}

function processorOf(processor: ChainProcessor, nameOf: (stripId: string) => string): RecallProcessor {
  const own = processor.name ? `${processor.name} (${PROCESSOR_WORDS[processor.kind].name.toLowerCase()})` : '';
  const base = { name: own || processorName(processor), isOn: processor.enabled };
  if (processor.kind !== 'equalizer')
    return { ...base, lines: processorFields(processor, nameOf).map(([label, text]) => line(label, text)) };
  const lines = processor.bands.map((band) => bandLine(band, nameOf));
  if (processor.phase === 'linear') lines.push(line('phase', 'linear'));
  if (processor.outputGainDb !== 0) lines.push(line('output', writeGain(processor.outputGainDb)));
  return { ...base, lines };
}

/** What is set at a strip itself, but for what is as it is at first. */
function stripLines(strip: Strip, nameOf: (stripId: string) => string, clearances: RecallClearances): RecallLine[] {
  const lines: RecallLine[] = [];
  const say = (is: boolean, label: string, text: string) => {
    if (is) lines.push(line(label, text));
  };
  if ('part' in strip) say(strip.part !== '', 'part', strip.part);
  say(true, 'level', writeGain(strip.gainDb));
  if (!('outputId' in strip)) return lines;
  say(strip.pan !== 0, 'position', writePan(strip.pan));
  say(strip.midDb !== 0, 'middle', writeGain(strip.midDb));
  say(strip.sideDb !== 0, 'sides', writeGain(strip.sideDb));
  if ('delayMs' in strip) say(strip.delayMs !== 0, 'delay', writeDelay(strip.delayMs));
  say(strip.polarityInverted, 'polarity', 'turned');
  say(strip.muted, 'muted', 'yes');
  say(strip.soloed, 'solo', 'yes');
  say(strip.outputId !== MASTER_ID, 'into', nameOf(strip.outputId));
  for (const send of strip.sends)
    say(
      true,
      `send to ${nameOf(send.busId)}`,
      [writeGain(send.gainDb), send.tap === 'before-fader' ? 'before the fader' : '', send.enabled ? '' : 'off']
        .filter(Boolean)
        .join(', '),
    );
  for (const { lowHz, highHz } of strip.claims)
    say(true, 'claims', `${writeFrequency(lowHz)} to ${writeFrequency(highHz)}`);
  const found = clearances[strip.id];
  if (found) {
    const { clearanceDb, onTop, isEstimated } = found;
    const clearance = `${isEstimated ? '≈ ' : ''}${writeGain(clearanceDb)}`;
    say(true, 'clearance', `${clearance}, on top ${Math.round(100 * onTop)} % of the time`);
  }
  return lines;
}

/** What the equalizers of a strip do together; null where they do nothing. */
function curveOf(strip: Strip, rateHz: number): number[] | null {
  if (!equalizersOf(strip.chain).some(({ enabled, bands }) => enabled && bands.some((band) => band.enabled)))
    return null;
  return [...chainPowerDb(strip.chain, stripChannels(strip), CURVE_HZ, rateHz)];
}

const kindOf = (song: Song, strip: Strip): RecallStrip['kind'] =>
  strip.id === MASTER_ID ? 'master' : 'audioId' in strip ? 'track' : isReturn(song, strip.id) ? 'return' : 'group';

/** True for a strip of which nothing is set. */
const isPlain = ({ kind, lines, processors }: RecallStrip) =>
  kind === 'master' &&
  lines.length === 1 &&
  lines[0].text === writeGain(0) &&
  processors.every((processor) => processor.lines.length === 0);

/**
 * Everything that is set in a song, in words and numbers.
 * @param of the song as it stands, or a draft of it
 * @param stripIds of what; the default is all of it
 */
export function recallOf(
  song: Song,
  {
    of,
    stripIds,
    clearances = {},
  }: { of?: { name: string; settings: Settings }; stripIds?: readonly string[]; clearances?: RecallClearances } = {},
): Recall {
  const state: Song = of ? { ...song, ...of.settings } : song;
  const all: Strip[] = [...state.tracks, ...state.buses, state.master];
  const nameById = new Map(all.map((strip) => [strip.id, 'name' in strip ? strip.name : 'the master']));
  const nameOf = (stripId: string) => nameById.get(stripId) ?? 'what is gone';
  const isWanted = ({ id }: { id: string }) => !stripIds || stripIds.includes(id);
  const strips = all.filter(isWanted).map((strip): RecallStrip => ({
    id: strip.id,
    name: strip.id === MASTER_ID ? 'Master' : (strip as Track | Bus).name,
    kind: kindOf(state, strip),
    lines: stripLines(strip, nameOf, clearances),
    processors: strip.chain.map((processor) => processorOf(processor, nameOf)).filter(({ lines }) => lines.length > 0),
    curveDb: curveOf(strip, state.rateHz),
  }));
  const seconds = songLengthFrames(state) / state.rateHz;
  const [tempo] = state.grid?.tempos ?? [];
  return {
    title: song.title,
    state: of?.name ?? '',
    lines: [
      line('length', writeLength(seconds)),
      line('sample rate', `${state.rateHz / 1000} kHz`),
      line('tracks', String(state.tracks.length)),
      ...(tempo ? [line('tempo', `${writeNumber(tempo.bpm)} quarter notes a minute at first`)] : []),
      ...(state.parts.length > 0
        ? [
            line(
              'parts',
              state.parts.map(({ name, startSeconds }) => `${name} ${writeLength(startSeconds)}`).join(', '),
            ),
          ]
        : []),
    ],
    strips: strips.filter((strip) => !isPlain(strip)),
    passages: state.passages
      .map((passage) => ({
        passage,
        changes: passage.changes.filter(({ figure }) => isWanted({ id: figure.stripId })),
      }))
      .filter(({ changes }) => !stripIds || changes.length > 0)
      .map(({ passage, changes }) => ({
        name: passage.name,
        when: `${writeLength(passage.startSeconds)} to ${writeLength(passage.endSeconds)}`,
        isOn: passage.enabled,
        changes: describeChanges(state, changes),
      })),
  };
}
