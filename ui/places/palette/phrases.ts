import {
  bandSummary,
  folded,
  parseBandPhrase,
  parseGain,
  parsePan,
  possible,
  writeGain,
  writePan,
} from '@/core/formats';
import { FADER_RANGE_DB, newBandSettings, type Bus, type Edit, type Song, type Track } from '@/core/song';
import type { Desk } from '../../window/desk/desk';
import { typeName } from '../../kit/signs/type-names';
import { addBand } from '../../window/song/band-edits';
import { useSelection } from '../../window/song/selection';
import { useSongStore } from '../../window/song/song-store';

/** What words typed into the palette would do. */
export interface Phrase {
  /** In words, for the list. */
  says: string;
  /** Null for what cannot be done: then it says what is missing. */
  run: (() => void) | null;
}

/** The tracks and groups that a typed name means: the name itself, or what begins with it, or what holds it. */
export function stripsNamed(song: Pick<Song, 'tracks' | 'buses'>, typed: string): (Track | Bus)[] {
  const wanted = folded(typed.trim());
  if (wanted === '') return [];
  const strips = [...song.tracks, ...song.buses];
  const tests = [
    (name: string) => name === wanted,
    (name: string) => name.startsWith(wanted),
    (name: string) => name.split(/\s+/).some((word) => word.startsWith(wanted)),
    (name: string) => name.includes(wanted),
  ];
  for (const test of tests) {
    const found = strips.filter(({ name }) => test(folded(name)));
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

function setting(desk: Desk, strip: Track | Bus, says: string, changes: (typeof SWITCHES)[string]['changes']): Phrase {
  return {
    says,
    run: () => useSongStore.of(desk).edit({ kind: 'strip.set', stripId: strip.id, changes }, says),
  };
}

/**
 * What typed words mean: a band (`bell 2.5k -3`, `hp 120 18`), a switch of a track (`mute claps`), its level or position (`level cello -3`,
 * `pan cello L30`), or a track to go to (`go dulcimer`).
 * @returns nothing where they are no such phrase; then they search the commands
 */
export function readPhrase(desk: Desk, song: Song, text: string): Phrase[] {
  const band = parseBandPhrase(text);
  if (band && 'problem' in band) return [{ says: band.problem, run: null }];
  if (band) {
    const { type, frequencyHz, ...given } = band;
    const summary = bandSummary({ ...newBandSettings(type, frequencyHz), ...given });
    return [{ says: `Add: ${typeName(type)}, ${summary}`, run: () => addBand(desk, { type, frequencyHz, ...given }) }];
  }
  const [verb = '', ...words] = text.trim().split(/\s+/);
  const rest = words.join(' ');
  const strips = (typed: string, phrase: (strip: Track | Bus) => Phrase): Phrase[] => {
    if (typed.trim() === '')
      return [{ says: `Of which track? Write its name, or how it begins: ${verb} claps.`, run: null }];
    const found = stripsNamed(song, typed);
    return found.length > 0
      ? found.map(phrase)
      : [{ says: `No track or group is called “${typed.trim()}”.`, run: null }];
  };
  const named = SWITCHES[verb.toLowerCase()];
  if (named) return strips(rest, (strip) => setting(desk, strip, `${named.says} ${strip.name}`, named.changes));
  if (verb.toLowerCase() === 'go')
    return strips(rest, (strip) => ({
      says: `Go to ${strip.name}`,
      run: () => useSelection.of(desk).chooseStrip(strip.id),
    }));
  const level = verb.toLowerCase() === 'level' && /^(.+?)\s+(\S+(?:\s*db)?)$/i.exec(rest);
  if (level) {
    const gainDb = possible(parseGain(level[2], FADER_RANGE_DB));
    return gainDb === null
      ? [{ says: `“${level[2]}” is no level. Write it like −3 or +2.5 dB.`, run: null }]
      : strips(level[1], (strip) => setting(desk, strip, `Level of ${strip.name}: ${writeGain(gainDb)}`, { gainDb }));
  }
  const place = verb.toLowerCase() === 'pan' && /^(.+?)\s+([lr]\s*\d+|\d+\s*[lr]|\S+)$/i.exec(rest);
  if (place) {
    const pan = possible(parsePan(place[2]));
    return pan === null
      ? [{ says: `“${place[2]}” is no position. Write it like L30, R30 or C.`, run: null }]
      : strips(place[1], (strip) => setting(desk, strip, `Position of ${strip.name}: ${writePan(pan)}`, { pan }));
  }
  if (verb.toLowerCase() === 'level' && rest !== '')
    return [{ says: `Which level? Write it after the name: level ${rest} −3.`, run: null }];
  return [];
}
