'use client';
import { useCallback, useEffect, useState } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { writeGain } from '@/core/formats';
import { matchAtStrength, matchCurve, type MatchCurve } from '@/core/measure';
import { batch, findStrip, type Edit } from '@/core/song';
import { type Desk, useDesk } from '../../window/desk/desk';
import { Button, ToggleButton } from '../../kit/controls/button';
import { Choice } from '../../kit/controls/choice';
import { PanelLine } from '../../kit/controls/panel';
import { ShareSlider } from '../../kit/controls/share-slider';
import { addBands, chooseNewest } from '../../window/song/equalizer-edits';
import { useSong, useSongStore } from '../../window/song/song-store';
import { equalizerFor, stripName, useSelection, useStripFacts, useTrackList } from '../../window/song/selection';
import { useAnalyses } from '../../window/sound/analyses';
import { songOf, settledSong } from '../../window/song/live-song';
import type { PreviewOwner } from '../../window/song/song-state';
import { stripSpectrumNow } from '../company/company-spectra';

const NONE = 'none';
const START_STRENGTH = 0.7;

/** The edit that gives a strip a match's bands, and its level where that is wanted. */
function matchEdit(
  desk: Desk,
  stripId: string,
  curve: MatchCurve,
  strength: number,
  withLevel: boolean,
  note: string,
): Edit | null {
  const strip = findStrip(settledSong(desk), stripId);
  const equalizer = strip && equalizerFor(desk, strip);
  if (!equalizer) return null;
  const { bands, outputGainDb } = matchAtStrength(curve, strength);
  const edits: Edit[] = [];
  const added = addBands(
    desk,
    [stripId],
    bands.map((band) => ({ ...band, note })),
  );
  if (added) edits.push(added);
  if (withLevel && outputGainDb !== 0)
    edits.push({
      kind: 'equalizer.set',
      stripId,
      equalizerId: equalizer.id,
      changes: { outputGainDb: Math.min(36, Math.max(-36, equalizer.outputGainDb + outputGainDb)) },
    });
  return batch(edits);
}

/** A curve that brings this track's long-term spectrum to another's, as a few bands: heard and seen before it is kept. */
export function MatchSection() {
  const desk = useDesk();
  const strip = useStripFacts(useSelection((selection) => selection.stripId));
  const tracks = useTrackList();
  const [targetId, setTargetId] = useState(NONE);
  const [curve, setCurve] = useState<MatchCurve | null>(null);
  const [strength, setStrength] = useState(START_STRENGTH);
  const [withLevel, setWithLevel] = useState(true);
  const close = useCallback(() => {
    setTargetId(NONE);
    setCurve(null);
  }, []);
  // Hears that the match was ended by something else: its track is gone.
  const [owner] = useState<PreviewOwner>(() => ({ onLost: close }));
  // Only what was measured can be matched to: what is still on its way would look like silence.
  const analyses = useAnalyses((state) => state.byAudio);
  const measuredIds = useSong(
    useShallow((song) => song.tracks.filter(({ audioId }) => audioId in analyses).map(({ id }) => id)),
  );
  const measured = tracks.filter(({ id }) => measuredIds.includes(id));
  const isMeasured = measured.length === tracks.length || measuredIds.includes(strip.id);
  const options = [
    { id: NONE, name: isMeasured ? 'Another track …' : 'Being measured …' },
    ...(isMeasured ? measured : []).filter(({ id }) => id !== strip.id).map(({ id, name }) => ({ id, name })),
  ];
  const target = tracks.find(({ id }) => id === targetId);
  const note = target ? `matched to ${target.name}` : '';

  const show = (next: MatchCurve, nextStrength: number, nextWithLevel: boolean, nextNote: string) =>
    useSongStore.of(desk).preview(owner, matchEdit(desk, strip.id, next, nextStrength, nextWithLevel, nextNote));
  const choose = (id: string) => {
    useSongStore.of(desk).preview(owner, null);
    setTargetId(id);
    const chosen = songOf(desk).tracks.find((track) => track.id === id);
    if (!chosen) {
      setCurve(null);
      return;
    }
    const found = matchCurve(stripSpectrumNow(desk, strip.id).afterDb, stripSpectrumNow(desk, id).afterDb);
    setCurve(found);
    show(found, strength, withLevel, `matched to ${chosen.name}`);
  };
  const end = (isKept: boolean) => {
    const { preview, keepPreview } = useSongStore.of(desk);
    if (isKept) {
      keepPreview(owner, 'Match');
      chooseNewest(desk);
    } else preview(owner, null);
    close();
  };
  // What is not kept is gone when another track is chosen or the panel is left.
  useEffect(
    () => () => {
      useSongStore.of(desk).preview(owner, null);
      close();
    },
    [desk, owner, close, strip.id],
  );

  return (
    <>
      <h2>Match</h2>
      <p>Brings {stripName(strip)} to the long-term spectrum of</p>
      <PanelLine>
        <Choice label="Match to" value={targetId} options={options} width={190} onChange={choose} />
      </PanelLine>
      {curve && (
        <>
          <ShareSlider
            label="Strength"
            value={strength}
            onChange={(value) => {
              setStrength(value);
              show(curve, value, withLevel, note);
            }}
          />
          <PanelLine>
            <ToggleButton
              isSelected={withLevel}
              onChange={(value) => {
                setWithLevel(value);
                show(curve, strength, value, note);
              }}
            >
              Level too, {writeGain(curve.outputGainDb)}
            </ToggleButton>
          </PanelLine>
          <p>
            {curve.bands.length === 0
              ? 'Their curves are alike already.'
              : `${curve.bands.length} ${curve.bands.length === 1 ? 'band' : 'bands'}, on the bench now`}
          </p>
          <PanelLine>
            <Button $strong onPress={() => end(true)}>
              Keep them
            </Button>
            <Button onPress={() => end(false)}>Leave it</Button>
          </PanelLine>
        </>
      )}
    </>
  );
}
