import { newTrack, emptySong } from '@/core/song';
import { ownDataFolder } from '../testing/data-folder';
import { measureSongBleed } from './measure-song';

ownDataFolder();

test('bleed between what is no track is refused in words', async () => {
  const track = newTrack(
    { audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 48000 },
    { id: 'a', name: 'a', ink: 0 },
  );
  const song = { ...emptySong('Alone'), tracks: [track] };
  const ask = (sourceId: string) =>
    measureSongBleed({ song, trackId: 'a', sourceId, range: { from: 0, to: 20 } }, new AbortController().signal);
  await expect(ask('gone')).rejects.toMatchObject({
    code: 'not-found',
    message: 'The song has no track or bus “gone”.',
  });
  await expect(ask('master')).rejects.toMatchObject({
    code: 'invalid-input',
    message: 'Bleed is looked for between two tracks.',
  });
});
