import {
  batch,
  dissolveGroup,
  dropTrack,
  endKeysOf,
  groupTracks,
  isReturn,
  layerTrack,
  MASTER_ID,
  MOST_LAYERS,
  newId,
  newReturn,
  type Edit,
} from '@/core/song';
import type { Desk } from '../../window/desk/desk';
import { keyName } from '../../window/commands/keys';
import { tell } from '../../window/notices/notices';
import { songOf } from '../../window/song/live-song';
import { chosenStrip, chosenStrips, stripName, useSelection } from '../../window/song/selection';
import { useSongStore } from '../../window/song/song-store';
import { setStrips } from '../../window/song/strip-edits';
import { rowsNow } from './rows';

/** What is done with tracks and groups as a whole. What has no object does nothing. */

export function toggleStrips(desk: Desk, field: 'muted' | 'soloed' | 'polarityInverted', label: string): void {
  const strip = chosenStrip(desk);
  if ('muted' in strip) setStrips(desk, strip.id, { [field]: !strip[field] }, label);
}

/** @param options.isExtended true where the tracks on the way are taken in */
export function chooseTrack(desk: Desk, direction: 1 | -1, { isExtended = false } = {}): void {
  const ids = rowsNow(desk).map(({ id }) => id);
  const { stripId, lastId, chooseStrip, extendTo } = useSelection.of(desk);
  const at = ids.indexOf(isExtended ? lastId : stripId);
  const next = ids[Math.min(ids.length - 1, Math.max(0, at + direction))];
  if (isExtended) extendTo(next, ids);
  else chooseStrip(next);
}

export function moveTrack(desk: Desk, direction: 1 | -1): void {
  const rows = rowsNow(desk);
  const at = rows.findIndex(({ id }) => id === useSelection.of(desk).stripId);
  const onto = rows[at + direction];
  if (rows[at]?.kind !== 'track' || !onto) return;
  useSongStore.of(desk).edit(dropTrack(songOf(desk), rows[at].id, onto), 'Move the track');
}

export function removeChosenTrack(desk: Desk): void {
  const strip = chosenStrip(desk);
  const { tracks } = songOf(desk);
  const at = tracks.findIndex((track) => track.id === strip.id);
  if (at < 0) return;
  const edit = batch([...endKeysOf(songOf(desk), strip.id), { kind: 'track.remove', trackId: strip.id }]);
  useSongStore.of(desk).edit(edit, 'Remove the track');
  useSelection.of(desk).chooseStrip((tracks[at + 1] ?? tracks[at - 1])?.id ?? MASTER_ID);
  tell(
    desk,
    `“${stripName(strip)}” was removed from the song; its recording is kept. ${keyName({ key: 'z', mod: true })} brings it back.`,
  );
}

export function groupChosen(desk: Desk): void {
  const bus = { id: newId(12), name: 'Group' };
  const ids = chosenStrips(desk).map(({ id }) => id);
  const edit = groupTracks(songOf(desk), ids, bus);
  if (useSongStore.of(desk).edit(edit, 'Group the tracks')) useSelection.of(desk).chooseStrip(bus.id);
}

/** A new return with a reverb, to which all that is chosen is sent; it is chosen then. */
export function addReturn(desk: Desk): void {
  const song = songOf(desk);
  const count = song.buses.filter(({ id }) => isReturn(song, id)).length;
  const wanted = {
    id: newId(12),
    name: count === 0 ? 'Return' : `Return ${count + 1}`,
    equalizerId: newId(10),
    reverbId: newId(10),
  };
  const ids = chosenStrips(desk).map(({ id }) => id);
  if (useSongStore.of(desk).edit(newReturn(song, ids, wanted), 'New return'))
    useSelection.of(desk).chooseStrip(wanted.id);
}

/** Turns a track into layers: the ranges between some corners, or two equal copies. */
export function makeLayers(desk: Desk, stripId: string, cornersHz: readonly number[]): void {
  const groupId = newId(12);
  const edit = layerTrack(songOf(desk), stripId, cornersHz, {
    groupId,
    trackIds: Array.from({ length: MOST_LAYERS }, () => newId(12)),
    newId: () => newId(10),
  });
  if (!edit) tell(desk, 'Only a track can be turned into layers: choose one.');
  else if (useSongStore.of(desk).edit(edit, 'Layers')) useSelection.of(desk).chooseStrip(stripId);
}

/** The group that is chosen, or that of the chosen track. */
export function dissolveChosen(desk: Desk): void {
  const strip = chosenStrip(desk);
  const song = songOf(desk);
  const busId = song.buses.some(({ id }) => id === strip.id) ? strip.id : 'outputId' in strip ? strip.outputId : '';
  const edit = dissolveGroup(song, busId);
  if (edit) useSongStore.of(desk).edit(edit, 'Take the group apart');
  else tell(desk, 'The chosen track is in no group.');
}

export function chooseAllTracks(desk: Desk): void {
  const { tracks } = songOf(desk);
  if (tracks.length === 0) return;
  const { stripId, chooseStrip } = useSelection.of(desk);
  if (!tracks.some(({ id }) => id === stripId)) chooseStrip(tracks[0].id);
  const chosen = useSelection.of(desk).stripId;
  useSelection.api(desk).setState({ others: tracks.map(({ id }) => id).filter((id) => id !== chosen) });
}

export function endSolos(desk: Desk): void {
  const song = songOf(desk);
  const edits = [...song.tracks, ...song.buses]
    .filter((strip) => strip.soloed)
    .map((strip): Edit => ({ kind: 'strip.set', stripId: strip.id, changes: { soloed: false } }));
  useSongStore.of(desk).edit(batch(edits), 'End every solo');
}
