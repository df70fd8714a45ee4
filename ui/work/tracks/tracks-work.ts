import { chosenStrip } from '../../window/song/selection';
import { useWholeRegister } from '../../window/view/whole-register';
import type { Work } from '../work';
import {
  addReturn,
  chooseAllTracks,
  chooseTrack,
  dissolveChosen,
  endSolos,
  groupChosen,
  makeLayers,
  moveTrack,
  removeChosenTrack,
  toggleStrips,
} from './track-edits';
import { TrackPanel } from './track-panel';

/** Tracks and groups: chosen, moved, muted, grouped, removed. */
export const tracksWork: Work = {
  panel: { id: 'track', name: 'Track', digit: 1, Panel: TrackPanel },
  commands: (desk) => [
    { id: 'track-above', name: 'Choose the track above', key: { key: 'ArrowUp' }, run: () => chooseTrack(desk, -1) },
    { id: 'track-below', name: 'Choose the track below', key: { key: 'ArrowDown' }, run: () => chooseTrack(desk, 1) },
    {
      id: 'take-in-above',
      name: 'Take the track above in',
      key: { key: 'ArrowUp', shift: true },
      run: () => chooseTrack(desk, -1, { isExtended: true }),
    },
    {
      id: 'take-in-below',
      name: 'Take the track below in',
      key: { key: 'ArrowDown', shift: true },
      run: () => chooseTrack(desk, 1, { isExtended: true }),
    },
    { id: 'move-up', name: 'Move the track up', key: { key: 'ArrowUp', alt: true }, run: () => moveTrack(desk, -1) },
    {
      id: 'move-down',
      name: 'Move the track down',
      key: { key: 'ArrowDown', alt: true },
      run: () => moveTrack(desk, 1),
    },
    { id: 'mute', name: 'Mute the track', key: { key: 'm' }, run: () => toggleStrips(desk, 'muted', 'Mute') },
    {
      id: 'solo',
      name: 'Solo the track',
      also: ['alone', 'listen'],
      key: { key: 's' },
      run: () => toggleStrips(desk, 'soloed', 'Solo'),
    },
    {
      id: 'polarity',
      name: 'Turn the polarity of the track',
      also: ['phase', 'invert', 'flip'],
      run: () => toggleStrips(desk, 'polarityInverted', 'Polarity'),
    },
    { id: 'no-solo', name: 'End every solo', run: () => endSolos(desk) },
    {
      id: 'group',
      name: 'Group the chosen tracks',
      also: ['bus', 'folder'],
      key: { key: 'g', mod: true },
      run: () => groupChosen(desk),
    },
    {
      id: 'new-return',
      name: 'New return with a reverb',
      also: ['send', 'effect', 'bus', 'echo'],
      run: () => addReturn(desk),
    },
    {
      id: 'layers',
      name: 'Turn the track into two equal layers',
      also: ['parallel', 'duplicate', 'split'],
      run: () => makeLayers(desk, chosenStrip(desk).id, []),
    },
    { id: 'dissolve', name: 'Take the group apart', run: () => dissolveChosen(desk) },
    { id: 'all-tracks', name: 'Choose all tracks', key: { key: 'a', mod: true }, run: () => chooseAllTracks(desk) },
    {
      id: 'whole-register',
      name: 'Show the whole Register, or the bench again',
      key: { key: 'w' },
      run: () => useWholeRegister.of(desk).toggle(),
    },
    { id: 'remove-track', name: 'Remove the track', run: () => removeChosenTrack(desk) },
  ],
};
