import { applyEdit } from './edits';
import type { Edit } from './edit-schema';
import { songSchema } from './schema';
import { upgradeEdit, upgradeSong } from './upgrade';

/** A song as version 1 wrote it, with a draft. */
const strip = {
  name: 'Cello',
  ink: 2,
  gainDb: -3,
  pan: 0,
  polarityInverted: false,
  muted: false,
  soloed: false,
  outputId: 'master',
  sends: [],
};
const chain = (id: string) => [{ kind: 'equalizer', id, enabled: true, outputGainDb: 0, phase: 'minimum', bands: [] }];
const track = (id: string) => ({
  id,
  ...strip,
  part: 'cello',
  claims: [],
  audioId: '0'.repeat(64),
  channels: 1,
  lengthFrames: 9,
  chain: chain(`${id}-equalizer`),
});
const settings = {
  tracks: [track('t')],
  buses: [{ id: 'g', ...strip, name: 'Strings', chain: chain('g-equalizer') }],
  master: { id: 'master', gainDb: 0, chain: chain('m') },
  passages: [],
};
const first = {
  format: 'orvid.song',
  version: 1,
  title: 'Old',
  rateHz: 48000,
  parts: [],
  loop: null,
  ...settings,
  drafts: [{ id: 'd', name: 'Before', settings }],
  leftOverlaps: [],
  landmarks: null,
};

test('a song of version 1 is one of version 2, its drafts too, and sounds as it did: nothing else is changed', () => {
  const song = songSchema.parse(upgradeSong(first));
  expect(song.version).toBe(2);
  expect(song.drafts[0].settings.buses[0].chain[0]).toMatchObject({ name: '', kind: 'equalizer' });
  const added = ['"name":"",', '"midDb":0,', '"sideDb":0,', '"delayMs":0,'];
  const names = added.reduce((text, field) => text.replaceAll(field, ''), JSON.stringify(song));
  const plain = JSON.parse(names) as typeof first & { buses: { claims?: unknown[] }[] };
  for (const { buses } of [plain, plain.drafts[0].settings])
    for (const bus of buses as { claims?: unknown[] }[]) {
      expect(bus.claims).toEqual([]);
      delete bus.claims;
    }
  expect(plain).toEqual({ ...first, version: 2 });
});

test.each([
  { kind: 'track.add', track: track('new'), index: 0 },
  { kind: 'chain.set', stripId: 't', chain: chain('other') },
  { kind: 'settings.set', settings },
  { kind: 'batch', edits: [{ kind: 'draft.add', draft: { id: 'e', name: 'x', settings }, index: 0 }] },
])('$kind of a journal of version 1 leads to a song of version 2', (edit) => {
  const song = songSchema.parse(upgradeSong(first));
  const next = applyEdit(song, upgradeEdit(edit) as unknown as Edit);
  expect(songSchema.parse(next)).toEqual(next);
});

test('what is of this version, of a later one, or no song, is left to the schema', () => {
  for (const other of [{ version: 2 }, { version: 3, kind: 'equalizer' }, null, 'text', []])
    expect(upgradeSong(other)).toBe(other);
});
