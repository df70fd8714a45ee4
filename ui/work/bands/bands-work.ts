import { useCommandStore } from '../../window/commands/command-store';
import type { Desk } from '../../window/desk/desk';
import { changeBand, removeBand } from '../../window/song/band-edits';
import { PROCESSOR_WORDS } from '@/core/formats';
import { switchEdit } from '@/core/song';
import { chosenBand, chosenProcessor, chosenStrip, useSelection } from '../../window/song/selection';
import { useSongStore } from '../../window/song/song-store';
import type { Work } from '../work';
import { copyEqualizer } from './use-clipboard';

function chooseBand(desk: Desk, direction: 1 | -1): void {
  const bands = chosenBand(desk).equalizer?.bands ?? [];
  if (bands.length === 0) return;
  const at = bands.findIndex((band) => band.id === useSelection.of(desk).bandId);
  const next = bands[(at + direction + bands.length) % bands.length];
  useSelection.of(desk).chooseBand(next.id, { isFocused: true });
}

function toggleBand(desk: Desk): void {
  const { strip, band } = chosenBand(desk);
  if (band) changeBand(desk, strip.id, band.id, { enabled: !band.enabled }, 'Band on or off');
}

function toggleProcessor(desk: Desk): void {
  const processor = chosenProcessor(desk);
  if (!processor) return;
  const label = `${PROCESSOR_WORDS[processor.kind].name} on or off`;
  useSongStore.of(desk).edit(switchEdit(chosenStrip(desk).id, processor, !processor.enabled), label);
}

function removeChosenBand(desk: Desk): void {
  const { strip, band } = chosenBand(desk);
  if (band) removeBand(desk, strip.id, band.id);
}

/** The bands of the equalizer on the bench: chosen, added, copied, switched, removed. */
export const bandsWork: Work = {
  commands: (desk) => [
    { id: 'band-before', name: 'Choose the band before', key: { key: '[' }, run: () => chooseBand(desk, -1) },
    { id: 'band-after', name: 'Choose the next band', key: { key: ']' }, run: () => chooseBand(desk, 1) },
    {
      id: 'add-band',
      name: 'Add a band in words …',
      key: { key: 'n' },
      run: () => useCommandStore.of(desk).setPalette('add-band'),
    },
    { id: 'band-on', name: 'Band on or off', key: { key: 'o' }, run: () => toggleBand(desk) },
    {
      id: 'equalizer-on',
      name: 'Equalizer, or what is on the bench, on or off',
      key: { key: 'o', shift: true },
      run: () => toggleProcessor(desk),
    },
    { id: 'remove-band', name: 'Remove the band', run: () => removeChosenBand(desk) },
    {
      id: 'copy-equalizer',
      name: 'Copy the whole equalizer',
      key: { key: 'c', mod: true, alt: true },
      run: () => copyEqualizer(desk),
    },
  ],
};
