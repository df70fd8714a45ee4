import { applyEdit, emptySong, newBandSettings, newBus, newProcessor, newTrack, type Edit, type Song } from '../song';
import {
  compareRecalls,
  CURVE_HZ,
  recallArticle,
  recallCsv,
  recallJson,
  recallMarkdown,
  recallOf,
  recallPage,
} from '.';

const track = (id: string, name: string) =>
  newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 48000 * 65 }, { id, name, ink: 0 });
const cello = track('c', 'Cello');
const song: Song = {
  ...emptySong('Lantern <Ferry>', 48000),
  parts: [{ name: 'Shore', startSeconds: 0 }],
  tracks: [
    {
      ...cello,
      gainDb: -3,
      claims: [{ lowHz: 120, highHz: 700 }],
      sends: [{ busId: 'room', gainDb: -9, tap: 'after-fader', enabled: true }],
      chain: [
        {
          ...cello.chain[0],
          bands: [
            { ...newBandSettings('high-pass', 110), id: 'a', letter: 'A', note: 'rumble, "boom"' },
            { ...newBandSettings('bell', 310), gainDb: -4, id: 'b', letter: 'B', enabled: false },
          ],
        } as Song['master']['chain'][number],
        newProcessor('compressor', 'k'),
      ],
    },
    track('v', '=Voice'),
  ],
  buses: [newBus({ id: 'room', name: 'Room', ink: 1 })],
};

test('every move stands in words and numbers with its why; strips say what they are, where they go, what is measured', () => {
  const { strips, lines } = recallOf(song, { clearances: { c: { clearanceDb: 2.5, onTop: 0.62 } } });
  expect(lines.map(({ label, text }) => `${label}: ${text}`)).toEqual([
    'length: 1:05',
    'sample rate: 48 kHz',
    'tracks: 2',
    'parts: Shore 0:00',
  ]);
  const [first] = strips;
  expect(first.lines.map(({ label, text }) => `${label}: ${text}`)).toEqual([
    'level: −3.0 dB',
    'send to Room: −9.0 dB',
    'claims: 120 Hz to 700 Hz',
    'clearance: +2.5 dB, on top 62 % of the time',
  ]);
  const estimate = recallOf(song, { clearances: { c: { clearanceDb: 2.5, onTop: 0.62, isEstimated: true } } });
  expect(estimate.strips[0].lines[3].text).toBe('≈ +2.5 dB, on top 62 % of the time');
  expect(first.processors.map(({ name }) => name)).toEqual(['Equalizer', 'Compressor']);
  expect(first.processors[0].lines).toEqual([
    { label: 'A, high-pass', text: '110 Hz, 12 dB/oct', why: 'rumble, "boom"' },
    { label: 'B, bell', text: '310 Hz, −4.0 dB, 1.39 oct, off', why: '' },
  ]);
  expect(first.curveDb).toHaveLength(CURVE_HZ.length);
  expect(first.curveDb![0]).toBeLessThan(-20);
  expect(strips.map(({ kind }) => kind)).toEqual(['track', 'track', 'return']);
});

test('of chosen tracks only what concerns them; of a draft its settings', () => {
  expect(recallOf(song, { stripIds: ['v'] }).strips.map(({ name }) => name)).toEqual(['=Voice']);
  const kept = applyEdit(song, { kind: 'draft.keep', draftId: 'd', name: 'Bold' });
  const louder = applyEdit(kept, { kind: 'strip.set', stripId: 'c', changes: { gainDb: 1 } });
  const draft = recallOf(louder, { of: louder.drafts[0] });
  expect(draft.state).toBe('Bold');
  expect(draft.strips[0].lines[0].text).toBe('−3.0 dB');
});

test('CSV is what RFC 4180 asks for, and nothing in it is a formula', () => {
  const csv = recallCsv(recallOf(song));
  const lines = csv.split('\r\n');
  expect(lines[0]).toBe('strip,kind,processor,on,what,value,why');
  expect(csv).toContain('Cello,track,Equalizer,yes,"A, high-pass","110 Hz, 12 dB/oct","rumble, ""boom"""');
  expect(lines.some((line) => /^[=+@]/.test(line))).toBe(false);
  expect(lines.at(-1)).toBe('');
});

test('Markdown has a heading for each strip, and letters that mean something to it are told as they are', () => {
  const text = recallMarkdown(recallOf(song));
  expect(text).toContain('# Lantern \\<Ferry\\>');
  expect(text).toContain('## Cello\n');
  expect(text).toContain('- A, high-pass: 110 Hz, 12 dB/oct — rumble, "boom"');
  expect(text).toContain('## Room (return)');
});

test('JSON says what it is; HTML holds no tag that the song brought, and asks for nothing from elsewhere', () => {
  expect(JSON.parse(recallJson(recallOf(song)))).toMatchObject({
    format: 'orvid.recall',
    version: 1,
    title: 'Lantern <Ferry>',
  });
  const page = recallPage(recallOf(song));
  expect(page).not.toContain('<Ferry>');
  expect(page).not.toMatch(/https?:|src=|@import|url\(/);
  expect(recallArticle(recallOf(song))).toContain('<polyline');
});

const compared = (edit: Edit) => compareRecalls(recallOf(song), recallOf(applyEdit(song, edit)));

test('side by side stands what differs, strip by strip, and nothing else', () => {
  expect(compareRecalls(recallOf(song), recallOf(song))).toEqual([]);
  expect(compared({ kind: 'strip.set', stripId: 'c', changes: { gainDb: 0 } })).toEqual([
    { strip: 'Cello', label: 'level', first: '−3.0 dB', second: '0.0 dB' },
  ]);
  expect(compared({ kind: 'band.remove', stripId: 'c', equalizerId: 'c-equalizer', bandId: 'b' })).toEqual([
    { strip: 'Cello', label: 'Equalizer: B, bell', first: '310 Hz, −4.0 dB, 1.39 oct, off', second: null },
  ]);
});

test('tracks of two songs are held against each other by their names', () => {
  const second = {
    ...song,
    tracks: song.tracks.map((first) => ({ ...first, id: `${first.id}2`, name: first.name.toUpperCase() })),
  };
  expect(compareRecalls(recallOf(song), recallOf(second))).toEqual([]);
});
