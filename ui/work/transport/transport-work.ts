import type { Desk } from '../../window/desk/desk';
import { tell } from '../../window/notices/notices';
import { songOf } from '../../window/song/live-song';
import { useSongStore } from '../../window/song/song-store';
import { positionSeconds } from '../../window/sound/audio-state';
import { useListening } from '../../window/sound/listening';
import { proposedStretch } from '../../window/sound/mix';
import { useSession } from '../../window/sound/session-store';
import type { Work } from '../work';

async function loopFullest(desk: Desk): Promise<void> {
  const loop = await proposedStretch(desk);
  if (!loop) tell(desk, 'Nothing is measured yet that could be looped.');
  else {
    useSongStore.of(desk).edit({ kind: 'song.set', changes: { loop } }, 'Loop the fullest stretch');
    useSession.of(desk).seek(loop.startSeconds);
  }
}

function goToStart(desk: Desk): void {
  const { loop } = songOf(desk);
  const start = loop?.enabled ? loop.startSeconds : 0;
  const isThere = Math.abs(positionSeconds(desk) - start) < 0.02;
  useSession.of(desk).seek(isThere ? 0 : start);
}

/** Playing, looping, mono. */
export const transportWork: Work = {
  commands: (desk) => [
    {
      id: 'play',
      name: 'Play or stop',
      key: { key: ' ' },
      duringDrag: true,
      run: () => useSession.of(desk).togglePlay(),
    },
    {
      id: 'go-to-start',
      name: 'Go to the start of the loop',
      key: { key: 'Home' },
      duringDrag: true,
      run: () => goToStart(desk),
    },
    { id: 'loop', name: 'Loop on or off', key: { key: 'l' }, run: () => useSession.of(desk).toggleLoop() },
    { id: 'fullest-stretch', name: 'Loop the fullest stretch', run: () => void loopFullest(desk) },
    {
      id: 'mono',
      name: 'Mono on or off',
      key: { key: 'm', shift: true },
      duringDrag: true,
      run: () => useListening.of(desk).setMono(!useListening.of(desk).mono),
    },
  ],
};
