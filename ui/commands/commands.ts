import { batch, dissolveGroup, dropTrack, firstEqualizer, groupTracks, MASTER_ID, newId, type Edit } from '@/core/song';
import { proposeClaims } from '../claims';
import { useBlind } from '../compare';
import { useCleaning } from '../edges';
import { chooseFiles } from '../recordings';
import { toggleEarshot } from '../earshot';
import { useEyes } from '../eyes';
import { useLandmarks } from '../landmarks';
import { flipNearest, toggleProbe } from '../probe';
import { rowsNow } from '../register';
import { positionSeconds, proposedStretch, soloCompany, soloPair, useListening, useSession } from '../session';
import { SIDES, useSide } from '../side/side-store';
import {
  changeBand,
  chosenBand,
  chosenStrip,
  chosenStrips,
  currentSong,
  removeBand,
  setStrips,
  stripName,
  useSelection,
  useSongStore,
} from '../song';
import { useTheme } from '../theme';
import { useCommandStore, type Command } from './command-store';
import { copyEqualizer } from './use-clipboard';

/** Every command of the main view, with its key. What has no object does nothing. */
function toggleStrips(field: 'muted' | 'soloed' | 'polarityInverted', label: string) {
  return () => {
    const strip = chosenStrip();
    if ('muted' in strip) setStrips(strip.id, { [field]: !strip[field] }, label);
  };
}

function chooseTrack(direction: 1 | -1): void {
  const ids = rowsNow().map(({ id }) => id);
  const at = ids.indexOf(useSelection.getState().stripId);
  const next = ids[Math.min(ids.length - 1, Math.max(0, at + direction))];
  useSelection.getState().chooseStrip(next);
  document.querySelector(`[data-testid="lane-${next}"]`)?.scrollIntoView({ block: 'nearest' });
}

function chooseBand(direction: 1 | -1): void {
  const bands = firstEqualizer(chosenStrip())?.bands ?? [];
  if (bands.length === 0) return;
  const at = bands.findIndex((band) => band.id === useSelection.getState().bandId);
  useSelection.getState().chooseBand(bands[(at + direction + bands.length) % bands.length].id);
}

function moveTrack(direction: 1 | -1): void {
  const rows = rowsNow();
  const at = rows.findIndex(({ id }) => id === useSelection.getState().stripId);
  const onto = rows[at + direction];
  if (rows[at]?.kind !== 'track' || !onto) return;
  useSongStore.getState().edit(dropTrack(currentSong(), rows[at].id, onto), 'Move the track');
}

export function removeChosenTrack(): void {
  const strip = chosenStrip();
  const { tracks } = currentSong();
  const at = tracks.findIndex((track) => track.id === strip.id);
  if (at < 0) return;
  const edit: Edit = { kind: 'track.remove', trackId: strip.id };
  useSongStore.getState().edit(edit, 'Remove the track');
  useSelection.getState().chooseStrip((tracks[at + 1] ?? tracks[at - 1])?.id ?? MASTER_ID);
  useSongStore
    .getState()
    .tell(`“${stripName(strip)}” was removed from the song; its recording is kept. Ctrl Z brings it back.`);
}

function groupChosen(): void {
  const bus = { id: newId(12), name: 'Group' };
  const edit = groupTracks(
    currentSong(),
    chosenStrips().map(({ id }) => id),
    bus,
  );
  useSongStore.getState().edit(edit, 'Group the tracks');
  if (edit) useSelection.getState().chooseStrip(bus.id);
}

/** The group that is chosen, or that of the chosen track. */
function dissolveChosen(): void {
  const strip = chosenStrip();
  const song = currentSong();
  const busId = song.buses.some(({ id }) => id === strip.id) ? strip.id : 'outputId' in strip ? strip.outputId : '';
  const edit = dissolveGroup(song, busId);
  if (edit) useSongStore.getState().edit(edit, 'Take the group apart');
  else useSongStore.getState().tell('The chosen track is in no group.');
}

function chooseAllTracks(): void {
  const { tracks } = currentSong();
  if (tracks.length === 0) return;
  if (!tracks.some(({ id }) => id === useSelection.getState().stripId))
    useSelection.getState().chooseStrip(tracks[0].id);
  const { stripId } = useSelection.getState();
  useSelection.setState({ others: tracks.map(({ id }) => id).filter((id) => id !== stripId) });
}

async function loopFullest(): Promise<void> {
  const loop = await proposedStretch();
  const { edit, tell } = useSongStore.getState();
  if (!loop) tell('Nothing is measured yet that could be looped.');
  else {
    edit({ kind: 'song.set', changes: { loop } }, 'Loop the fullest stretch');
    useSession.getState().seek(loop.startSeconds);
  }
}

function proposeMissingClaims(): void {
  const without = currentSong().tracks.filter(({ claims }) => claims.length === 0);
  void proposeClaims(without.map(({ id }) => id));
}

function toggleBand(): void {
  const { strip, band } = chosenBand();
  if (band) changeBand(strip.id, band.id, { enabled: !band.enabled }, 'Band on or off');
}

function toggleEqualizer(): void {
  const { strip, equalizer } = chosenBand();
  if (!equalizer) return;
  const changes = { enabled: !equalizer.enabled };
  useSongStore
    .getState()
    .edit({ kind: 'equalizer.set', stripId: strip.id, equalizerId: equalizer.id, changes }, 'Equalizer on or off');
}

function goToStart(): void {
  const { loop } = currentSong();
  const start = loop?.enabled ? loop.startSeconds : 0;
  const isThere = Math.abs(positionSeconds() - start) < 0.02;
  useSession.getState().seek(isThere ? 0 : start);
}

/** @param go opens a page of the application */
export function allCommands(go: (path: string) => void): Command[] {
  const session = useSession.getState;
  const listening = useListening.getState;
  const palette = useCommandStore.getState;
  return [
    { id: 'play', name: 'Play or stop', key: { key: ' ' }, run: () => session().togglePlay() },
    { id: 'go-to-start', name: 'Go to the start of the loop', key: { key: 'Home' }, run: goToStart },
    { id: 'loop', name: 'Loop on or off', key: { key: 'l' }, run: () => session().toggleLoop() },
    {
      id: 'before',
      name: 'Before or after',
      key: { key: 'b', shift: true },
      run: () => listening().setBefore(!listening().before),
    },
    {
      id: 'mono',
      name: 'Mono on or off',
      key: { key: 'm', shift: true },
      run: () => listening().setMono(!listening().mono),
    },
    {
      id: 'eyes-off',
      name: 'Eyes off or on',
      key: { key: 'e', shift: true },
      run: () => useEyes.getState().toggle(),
    },
    { id: 'before-mix', name: 'Compare the mix before and after', run: () => listening().setScope('mix') },
    { id: 'before-track', name: 'Compare the track before and after', run: () => listening().setScope('track') },
    { id: 'before-band', name: 'Compare the band before and after', run: () => listening().setScope('band') },
    {
      id: 'matched',
      name: 'Matched loudness on or off',
      run: () => listening().setMatched(!listening().isMatched),
    },
    { id: 'probe', name: 'Probe: begin or end (P held)', run: toggleProbe },
    { id: 'flip', name: 'Turn the nearest mark into a cut', key: { key: 'f' }, run: flipNearest },
    { id: 'earshot', name: 'Hear only the range of the band: begin or end (E held)', run: toggleEarshot },
    {
      id: 'earshot-matched',
      name: 'Matched loudness of what is heard alone, on or off',
      run: () => listening().setEarshotMatched(!listening().isEarshotMatched),
    },
    {
      id: 'undo',
      name: 'Undo',
      key: { key: 'z', mod: true },
      inTitleMenu: true,
      run: () => useSongStore.getState().undo(),
    },
    {
      id: 'redo',
      name: 'Redo',
      key: { key: 'z', mod: true, shift: true },
      inTitleMenu: true,
      run: () => useSongStore.getState().redo(),
    },
    { id: 'track-above', name: 'Choose the track above', key: { key: 'ArrowUp' }, run: () => chooseTrack(-1) },
    { id: 'track-below', name: 'Choose the track below', key: { key: 'ArrowDown' }, run: () => chooseTrack(1) },
    { id: 'move-up', name: 'Move the track up', key: { key: 'ArrowUp', alt: true }, run: () => moveTrack(-1) },
    { id: 'move-down', name: 'Move the track down', key: { key: 'ArrowDown', alt: true }, run: () => moveTrack(1) },
    {
      id: 'mute',
      name: 'Mute the track',
      key: { key: 'm' },
      run: toggleStrips('muted', 'Mute'),
    },
    {
      id: 'solo',
      name: 'Solo the track',
      key: { key: 's' },
      run: toggleStrips('soloed', 'Solo'),
    },
    {
      id: 'solo-pair',
      name: 'Solo the track and its company’s first',
      key: { key: 's', alt: true },
      run: () => soloPair(chosenStrip().id),
    },
    { id: 'solo-company', name: 'Solo the track and all its company', run: () => soloCompany(chosenStrip().id) },
    {
      id: 'polarity',
      name: 'Turn the polarity of the track',
      run: toggleStrips('polarityInverted', 'Polarity'),
    },
    { id: 'no-solo', name: 'End every solo', run: endSolos },
    {
      id: 'group',
      name: 'Group the chosen tracks',
      key: { key: 'g', mod: true },
      run: groupChosen,
    },
    { id: 'dissolve', name: 'Take the group apart', run: dissolveChosen },
    { id: 'all-tracks', name: 'Choose all tracks', key: { key: 'a', mod: true }, run: chooseAllTracks },
    {
      id: 'copy-equalizer',
      name: 'Copy the whole equalizer',
      key: { key: 'c', mod: true, alt: true },
      run: copyEqualizer,
    },
    ...SIDES.map(({ id, name, digit }) => ({
      id: `side-${id}`,
      name: `Side: ${name}`,
      key: { key: String(digit), alt: true },
      run: () => useSide.getState().show(id),
    })),
    { id: 'fullest-stretch', name: 'Loop the fullest stretch', run: () => void loopFullest() },
    { id: 'propose-claims', name: 'Propose claims where there are none', run: proposeMissingClaims },
    {
      id: 'clean-ends',
      name: 'Clean all ends …',
      run: () => currentSong().tracks.length > 0 && useCleaning.getState().setOpen(true),
    },
    {
      id: 'landmarks',
      name: 'Landmarks on the ruler, on or off',
      run: () => useLandmarks.getState().show(!useLandmarks.getState().isShown),
    },
    {
      id: 'blind',
      name: 'Compare blind …',
      run: () => useBlind.getState().open({ kind: 'scope', scope: listening().scope }),
    },
    { id: 'remove-track', name: 'Remove the track', run: removeChosenTrack },
    { id: 'band-before', name: 'Choose the band before', key: { key: '[' }, run: () => chooseBand(-1) },
    { id: 'band-after', name: 'Choose the next band', key: { key: ']' }, run: () => chooseBand(1) },
    { id: 'add-band', name: 'Add a band in words …', key: { key: 'n' }, run: () => palette().setPalette('add-band') },
    { id: 'band-on', name: 'Band on or off', key: { key: 'o' }, run: toggleBand },
    {
      id: 'equalizer-on',
      name: 'Equalizer of the track on or off',
      key: { key: 'o', shift: true },
      run: toggleEqualizer,
    },
    {
      id: 'remove-band',
      name: 'Remove the band',
      run: () => {
        const { strip, band } = chosenBand();
        if (band) removeBand(strip.id, band.id);
      },
    },
    { id: 'add-recordings', name: 'Add recordings …', inTitleMenu: true, run: chooseFiles },
    {
      id: 'score',
      name: 'The score of the song …',
      inTitleMenu: true,
      run: () => go(`/songs/${useSongStore.getState().songId}/score`),
    },
    { id: 'render', name: 'Render the mix …', inTitleMenu: true, run: () => palette().setRendering(true) },
    {
      id: 'palette',
      name: 'All commands and keys …',
      key: { key: 'k', mod: true },
      inTitleMenu: true,
      run: () => palette().setPalette('commands'),
    },
    { id: 'day', name: 'Show it as by day', inTitleMenu: true, run: () => useTheme.getState().choose('day') },
    { id: 'night', name: 'Show it as by night', inTitleMenu: true, run: () => useTheme.getState().choose('night') },
    {
      id: 'system-theme',
      name: 'Day or night as the system has it',
      inTitleMenu: true,
      run: () => useTheme.getState().choose('system'),
    },
    { id: 'songs', name: 'To the list of songs', inTitleMenu: true, run: () => go('/songs') },
  ];
}

function endSolos(): void {
  const song = currentSong();
  const edits = [...song.tracks, ...song.buses]
    .filter((strip) => strip.soloed)
    .map((strip): Edit => ({ kind: 'strip.set', stripId: strip.id, changes: { soloed: false } }));
  useSongStore.getState().edit(batch(edits), 'End every solo');
}
