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

test('a song of version 1 is one of this version, its drafts too, and sounds as it did: nothing else is changed', () => {
  const song = songSchema.parse(upgradeSong(first));
  expect(song.version).toBe(3);
  expect(song.drafts[0].settings.buses[0].chain[0]).toMatchObject({ name: '', kind: 'equalizer' });
  const added = ['"name":"",', '"midDb":0,', '"sideDb":0,', '"delayMs":0,'];
  const names = added.reduce((text, field) => text.replaceAll(field, ''), JSON.stringify(song));
  const plain = JSON.parse(names) as typeof first & { buses: { claims?: unknown[] }[] };
  for (const { buses } of [plain, plain.drafts[0].settings])
    for (const bus of buses as { claims?: unknown[] }[]) {
      expect(bus.claims).toEqual([]);
      delete bus.claims;
    }
  expect(plain).toEqual({ ...first, version: 3, grid: null });
});

test.each([
  { kind: 'track.add', track: track('new'), index: 0 },
  { kind: 'chain.set', stripId: 't', chain: chain('other') },
  { kind: 'settings.set', settings },
  { kind: 'batch', edits: [{ kind: 'draft.add', draft: { id: 'e', name: 'x', settings }, index: 0 }] },
])('$kind of a journal of version 1 leads to a song of this version', (edit) => {
  const song = songSchema.parse(upgradeSong(first));
  const next = applyEdit(song, upgradeEdit(edit) as unknown as Edit);
  expect(songSchema.parse(next)).toEqual(next);
});

test('what is of this version, of a later one, or no song, is left to the schema', () => {
  for (const other of [{ version: 3 }, { version: 4, kind: 'equalizer' }, null, 'text', []])
    expect(upgradeSong(other)).toBe(other);
});

test('a song of version 2 keeps what its passages and sends do', () => {
  const send = { busId: 'g', gainDb: -9, tap: 'after-fader' };
  const passage = {
    id: 'p',
    name: 'Intro',
    startSeconds: 1,
    endSeconds: 4,
    changes: [{ stripId: 't', bandId: 'b', settings: { gainDb: -3, enabled: true } }],
  };
  const second = { ...first, version: 2, tracks: [{ ...track('t'), sends: [send] }], passages: [passage], drafts: [] };
  const song = songSchema.parse(upgradeSong(second));
  const figure = { stripId: 't', of: 'band', partId: 'b' };
  expect(song.passages).toEqual([
    {
      ...passage,
      fadeInSeconds: 0,
      fadeOutSeconds: 0,
      enabled: true,
      changes: [
        { figure: { ...figure, field: 'gainDb' }, value: -3, points: [] },
        { figure: { ...figure, field: 'enabled' }, value: true, points: [] },
      ],
    },
  ]);
  expect(song.tracks[0].sends).toEqual([{ ...send, enabled: true }]);
  const edit = upgradeEdit({ kind: 'passage.add', passage, index: 0 }) as unknown as Edit;
  expect(applyEdit({ ...song, passages: [] }, edit).passages[0].changes).toHaveLength(2);
});
