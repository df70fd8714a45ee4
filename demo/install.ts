import { firstEqualizer, BAND_DEFAULTS, emptySong, newTrack, type Band, type Song, type Track } from '@/core/song';
import { plainGrid } from '@/core/grid';
import { discard, originalPath, settle, temporaryPath } from '@/server/audio/store';
import { decodeRecording } from '@/server/import/decode-recording';
import { keepRecording } from '@/server/import/read-recording';
import { writeWav } from '@/server/render/write-wav';
import { createSong, songExists } from '@/server/songs/store';
import { recordLanternFerry, type Recording } from './recordings';
import { BAR_SECONDS, BEAT_SECONDS, PARTS } from './score';
import { RATE } from './signal';

export const DEMO_SONG_ID = 'lantern-ferry';

const band = (letter: string, shape: Partial<Band> & Pick<Band, 'type' | 'frequencyHz'>): Band => ({
  ...BAND_DEFAULTS,
  id: `demo-${letter.toLowerCase()}`,
  letter,
  ...shape,
});

/** What has been begun when the song is opened: the lead voice has two moves, the rest is as it was recorded. */
const BEGUN: Record<string, Band[]> = {
  'lead-voice': [
    band('A', { type: 'high-pass', frequencyHz: 90, order: 3, note: 'rumble and pops' }),
    band('B', { type: 'bell', frequencyHz: 285, gainDb: -3.5, q: 2.1, note: 'thick against the cello' }),
    band('C', { type: 'high-shelf', frequencyHz: 9000, gainDb: 2, note: 'some air' }),
  ],
};

/** Where some tracks are meant to be heard. */
const CLAIMS: Record<string, { lowHz: number; highHz: number }[]> = {
  stomp: [{ lowHz: 45, highHz: 105 }],
  'double-bass': [{ lowHz: 70, highHz: 200 }],
  cello: [{ lowHz: 130, highHz: 330 }],
  dulcimer: [{ lowHz: 1000, highHz: 2600 }],
  'lead-voice': [{ lowHz: 300, highHz: 3200 }],
};

/** Brings one synthesised recording into the store the way an import does: as a file that is decoded and measured. */
async function store(recording: Recording): Promise<Track> {
  const fileName = `${recording.name}.wav`;
  const upload = await temporaryPath();
  const pages = await temporaryPath();
  try {
    const channels = recording.samples.length;
    const frames = recording.samples[0].length;
    await writeWav(upload, { channels, rateHz: RATE, format: '24' }, [{ samples: recording.samples, frames }]);
    const decoded = await decodeRecording({ source: upload, pages, fileName, rateHz: RATE }, () => undefined);
    await keepRecording(decoded, { pages, fileName, rateHz: RATE });
    await settle(upload, originalPath(decoded.originalHash));
    const { audioId, lengthFrames } = decoded;
    const track = newTrack(
      { audioId, channels: decoded.channels, lengthFrames },
      { id: recording.id, name: recording.name, ink: recording.ink },
    );
    const equalizer = firstEqualizer(track)!;
    return {
      ...track,
      part: recording.part,
      gainDb: recording.gainDb,
      pan: recording.pan,
      claims: CLAIMS[recording.id] ?? [],
      chain: [{ ...equalizer, bands: BEGUN[recording.id] ?? [] }],
    };
  } finally {
    await discard(upload, pages);
  }
}

/**
 * Puts Lantern Ferry into the database, unless it is or was there: what the user changed or deleted stays so.
 * @param tell hears what is going on
 */
export async function installDemo(tell: (line: string) => void = () => undefined): Promise<void> {
  if (await songExists(DEMO_SONG_ID)) return;
  tell('Synthesising the demo song, about 20 seconds …');
  const tracks: Track[] = [];
  for (const recording of recordLanternFerry()) tracks.push(await store(recording));
  const song: Song = {
    ...emptySong('Lantern Ferry', 48000),
    parts: PARTS,
    grid: plainGrid(60 / BEAT_SECONDS),
    loop: { startSeconds: 8 * BAR_SECONDS, endSeconds: 12 * BAR_SECONDS, enabled: false },
    tracks,
  };
  await createSong(song, DEMO_SONG_ID);
}
