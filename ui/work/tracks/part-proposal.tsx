'use client';
import styled from 'styled-components';
import { useShallow } from 'zustand/react/shallow';
import { partFromName, partFromSound, type ProposedPart } from '@/core/parts';
import { batch, type Song, type Track } from '@/core/song';
import { TextButton } from '../../kit/controls/button';
import { useDesk } from '../../window/desk/desk';
import { useAnalyses, type Analyses } from '../../window/sound/analyses';
import { songOf } from '../../window/song/live-song';
import { useSong, useSongStore } from '../../window/song/song-store';

/** What a track seems to play: by its name, or by its sound where that says nothing. */
function proposalFor({ name, audioId }: Track, byAudio: Analyses): (ProposedPart & { by: 'name' | 'sound' }) | null {
  const named = partFromName(name);
  if (named) return { ...named, by: 'name' };
  const heard = byAudio[audioId] ? partFromSound(byAudio[audioId]) : null;
  return heard && { ...heard, by: 'sound' };
}

/** Tracks without a part, and what each seems to play. */
const proposalsIn = (song: Song, byAudio: Analyses) =>
  song.tracks.flatMap((track) => {
    const found = track.part === '' ? proposalFor(track, byAudio) : null;
    return found ? [{ id: track.id, part: found.part }] : [];
  });

/** A part for a track that has none, with how sure it is; taken for it, or for all that have none. */
export function PartProposal({ stripId }: { stripId: string }) {
  const desk = useDesk();
  const byAudio = useAnalyses((analyses) => analyses.byAudio);
  const proposal = useSong(
    useShallow((song) => {
      const track = song.tracks.find(({ id }) => id === stripId);
      return track ? proposalFor(track, byAudio) : null;
    }),
  );
  const others = useSong((song) => proposalsIn(song, byAudio).filter(({ id }) => id !== stripId).length);
  if (!proposal) return null;
  const accept = (ids: readonly string[] | null) => {
    const wanted = proposalsIn(songOf(desk), byAudio).filter(({ id }) => ids === null || ids.includes(id));
    const edit = batch(wanted.map(({ id, part }) => ({ kind: 'strip.set' as const, stripId: id, changes: { part } })));
    useSongStore.of(desk).edit(edit, wanted.length === 1 ? 'Part' : 'Parts');
  };
  return (
    <Line>
      <span>
        {proposal.part}? {Math.round(100 * proposal.sureness)} % sure, by its {proposal.by}
      </span>
      <TextButton onPress={() => accept([stripId])}>Take it</TextButton>
      {others > 0 && (
        <TextButton data-hint="What the other tracks without a part seem to play, too" onPress={() => accept(null)}>
          For all {others + 1}
        </TextButton>
      )}
    </Line>
  );
}

const Line = styled.p`
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  align-items: center;
  margin-left: 78px;
  font-size: 12.5px;
`;
