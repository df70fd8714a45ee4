import { BAND_DEFAULTS, emptyEqualizer, newProcessor } from '@/core/song';
import { writeChainFile, writeEqualizerFile } from '@/core/formats';
import { ownDataFolder } from '../testing/data-folder';
import { deletePreset, listPresets, restorePreset, savePreset } from './store';

ownDataFolder();

const equalizer = writeEqualizerFile({
  phase: 'minimum',
  outputGainDb: 0,
  bands: [{ ...BAND_DEFAULTS, type: 'high-pass', frequencyHz: 90, order: 3 }],
});

test('an equalizer is saved, found again, deleted and brought back', async () => {
  const first = await savePreset({ name: 'Voice, clean lows', part: 'voice', equalizer });
  const second = await savePreset({ name: 'Cello', part: '', equalizer });
  expect((await listPresets()).map(({ name }) => name).sort()).toEqual(['Cello', 'Voice, clean lows']);
  await deletePreset(second.id);
  expect(await listPresets()).toEqual([first]);
  await restorePreset(second.id);
  expect(await listPresets()).toHaveLength(2);
});

test('what is no equalizer file is refused with the fault, and nothing is kept', async () => {
  const before = await listPresets();
  await expect(savePreset({ name: 'Odd', part: '', equalizer: '{"format":"something"}' })).rejects.toThrow(
    'Odd: format: expected "orvid.eq"',
  );
  expect(await listPresets()).toEqual(before);
});

test('what is not there cannot be deleted or brought back', async () => {
  for (const attempt of [() => deletePreset('gone'), () => restorePreset('gone')])
    await expect(attempt()).rejects.toMatchObject({ code: 'not-found' });
});

test('a whole chain is saved like an equalizer; a damaged one is refused with the fault', async () => {
  const chain = writeChainFile([emptyEqualizer('e'), newProcessor('compressor', 'c')]);
  const { id } = await savePreset({ name: 'Glue', part: 'group', equalizer: chain });
  expect((await listPresets()).find((preset) => preset.id === id)?.equalizer).toBe(chain);
  const damaged = chain.replace('"ratio": 3', '"ratio": -3');
  expect(damaged).not.toBe(chain);
  await expect(savePreset({ name: 'Bad', part: '', equalizer: damaged })).rejects.toThrow(/^Bad: chain\.1\.ratio: /);
});
