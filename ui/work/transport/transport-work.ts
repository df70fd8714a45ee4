import { songLengthFrames } from '@/core/song';
import type { Desk } from '../../window/desk/desk';
import { tell } from '../../window/notices/notices';
import { songOf } from '../../window/song/live-song';
import { useSongStore } from '../../window/song/song-store';
import { positionSeconds } from '../../window/sound/audio-state';
import { useListening } from '../../window/sound/listening';
import { proposedStretch } from '../../window/sound/mix';
import { useSession } from '../../window/sound/session-store';
import { spanOr, useSongView } from '../../window/view/song-view';
import type { Work } from '../work';

/** How much of what is shown one goes along at once. */
const SHARE = 3 / 4;

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
  useSongView.of(desk).reveal(isThere ? 0 : start);
}

const lengthOf = (desk: Desk) => songLengthFrames(songOf(desk)) / songOf(desk).rateHz;
const shownOf = (desk: Desk) => spanOr(useSongView.of(desk).span, lengthOf(desk));

/** Shows less or more of the song, around the playhead where that is in sight. */
function zoom(desk: Desk, factor: number): void {
  const { from, to } = shownOf(desk);
  const at = positionSeconds(desk);
  useSongView.of(desk).zoom(factor, at >= from && at <= to ? at : (from + to) / 2);
}

function goAlong(desk: Desk, share: number): void {
  const { from, to } = shownOf(desk);
  useSongView.of(desk).scroll(share * (to - from));
}

/** The loop fills the strip; where something is shown by itself already, the whole song. */
function showLoop(desk: Desk): void {
  const { span, show } = useSongView.of(desk);
  const { loop } = songOf(desk);
  show(!span && loop ? { from: loop.startSeconds, to: loop.endSeconds } : null);
}

/** Playing, looping, mono; what is shown of the song. */
export const transportWork: Work = {
  commands: (desk) => [
    {
      id: 'play',
      name: 'Play or stop',
      also: ['start', 'pause', 'transport'],
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
    { id: 'zoom-in', name: 'See less of the song, closer', key: { key: '+' }, run: () => zoom(desk, 1 / 2) },
    { id: 'zoom-out', name: 'See more of the song', key: { key: '-' }, run: () => zoom(desk, 2) },
    { id: 'zoom-loop', name: 'See the loop, or the whole song again', key: { key: 'z' }, run: () => showLoop(desk) },
    { id: 'whole-song', name: 'See the whole song', run: () => useSongView.of(desk).show(null) },
    { id: 'earlier', name: 'See what is earlier in the song', key: { key: ',' }, run: () => goAlong(desk, -SHARE) },
    { id: 'later', name: 'See what is later in the song', key: { key: '.' }, run: () => goAlong(desk, SHARE) },
    { id: 'fullest-stretch', name: 'Loop the fullest stretch', run: () => void loopFullest(desk) },
    {
      id: 'mono',
      name: 'Mono on or off',
      also: ['sum', 'monitor'],
      key: { key: 'm', shift: true },
      duringDrag: true,
      run: () => useListening.of(desk).setMono(!useListening.of(desk).mono),
    },
  ],
};
