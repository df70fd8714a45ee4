import { bandSummary, parseBandPhrase, parseGain, parsePan, writeGain, writePan } from '@/core/formats';
import {
  FADER_RANGE_DB,
  GAIN_RANGE_DB,
  newBandSettings,
  type Bus,
  type Edit,
  type Song,
  type Track,
} from '@/core/song';
import { typeName } from '../signs';
import { addBand, useSelection, useSongStore } from '../song';

/** What words typed into the palette would do. */
export interface Phrase {
  /** In words, for the list. */
  says: string;
  run: () => void;
}

/** The tracks and groups that a typed name means: the name itself, or what begins with it, or what holds it. */
export function stripsNamed(song: Pick<Song, 'tracks' | 'buses'>, typed: string): (Track | Bus)[] {
  const wanted = typed.trim().toLowerCase();
  if (wanted === '') return [];
  const strips = [...song.tracks, ...song.buses];
  const tests = [
    (name: string) => name === wanted,
    (name: string) => name.startsWith(wanted),
    (name: string) => name.split(/\s+/).some((word) => word.startsWith(wanted)),
    (name: string) => name.includes(wanted),
  ];
  for (const test of tests) {
    const found = strips.filter(({ name }) => test(name.toLowerCase()));
    if (found.length > 0) return found;
  }
  return [];
}

const SWITCHES: Record<string, { says: string; changes: Extract<Edit, { kind: 'strip.set' }>['changes'] }> = {
  mute: { says: 'Mute', changes: { muted: true } },
  unmute: { says: 'Unmute', changes: { muted: false } },
  solo: { says: 'Solo', changes: { soloed: true } },
  unsolo: { says: 'End the solo of', changes: { soloed: false } },
  invert: { says: 'Turn the polarity of', changes: { polarityInverted: true } },
};

function setting(strip: Track | Bus, says: string, changes: (typeof SWITCHES)[string]['changes']): Phrase {
  return {
    says,
    run: () => useSongStore.getState().edit({ kind: 'strip.set', stripId: strip.id, changes }, says),
  };
}

/**
 * What typed words mean: a band (`bell 2.5k -3`, `hp 120 18`), a switch of a track (`mute claps`), its level or position (`level cello -3`,
 * `pan cello L30`), or a track to go to (`go dulcimer`).
 * @returns nothing where they are no such phrase; then they search the commands
 */
export function readPhrase(song: Song, text: string): Phrase[] {
  const band = parseBandPhrase(text);
  if (band) {
    const { type, frequencyHz, ...given } = band;
    const gainDb = given.gainDb === undefined ? {} : { gainDb: parseGain(String(given.gainDb), GAIN_RANGE_DB) ?? 0 };
    const shape = { ...given, ...gainDb };
    const summary = bandSummary({ ...newBandSettings(type, frequencyHz), ...shape });
    return [{ says: `Add: ${typeName(type)}, ${summary}`, run: () => addBand({ type, frequencyHz, ...shape }) }];
  }
  const [verb = '', ...words] = text.trim().split(/\s+/);
  const rest = words.join(' ');
  const named = SWITCHES[verb.toLowerCase()];
  if (named)
    return stripsNamed(song, rest).map((strip) => setting(strip, `${named.says} ${strip.name}`, named.changes));
  if (verb.toLowerCase() === 'go')
    return stripsNamed(song, rest).map((strip) => ({
      says: `Go to ${strip.name}`,
      run: () => useSelection.getState().chooseStrip(strip.id),
    }));
  const match = /^(.+?)\s+(\S+(?:\s*db)?)$/i.exec(rest);
  if (verb.toLowerCase() === 'level' && match) {
    const gainDb = parseGain(match[2], FADER_RANGE_DB);
    if (gainDb !== null)
      return stripsNamed(song, match[1]).map((strip) =>
        setting(strip, `Level of ${strip.name}: ${writeGain(gainDb)}`, { gainDb }),
      );
  }
  const place = /^(.+?)\s+([lr]\s*\d+|\d+\s*[lr]|c)$/i.exec(rest);
  const pan = verb.toLowerCase() === 'pan' && place ? parsePan(place[2]) : null;
  if (pan !== null && place)
    return stripsNamed(song, place[1]).map((strip) =>
      setting(strip, `Position of ${strip.name}: ${writePan(pan)}`, { pan }),
    );
  return [];
}
