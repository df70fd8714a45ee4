'use client';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useShallow } from 'zustand/react/shallow';
import styled from 'styled-components';
import { bandsOf, channelsInto, findStrip } from '@/core/song';
import { useAxis } from '../../kit/axis/axis-context';
import { useCanvas } from '../../kit/axis/canvas';
import { CanvasField } from '../../kit/axis/canvas-field';
import { Still } from '../../kit/axis/still';
import { useSize } from '../../kit/axis/use-size';
import { tidyDb, tidyHz } from '../../kit/gestures/steps';
import type { Tokens } from '../../kit/theme/tokens';
import { useCrosshair } from '../../window/crosshair/use-crosshair';
import { useDesk } from '../../window/desk/desk';
import { addBand } from '../../window/song/band-edits';
import { changedStrips } from '../../window/song/changed-strips';
import { songOf } from '../../window/song/live-song';
import { followSounding, soundingSong } from '../../window/song/sounding-song';
import {
  equalizerOnBench,
  pathIn,
  stripName,
  useChosenProcessor,
  useChosenStrip,
  useSelection,
} from '../../window/song/selection';
import { useSong, useSongStore } from '../../window/song/song-store';
import { useAnalyses } from '../../window/sound/analyses';
import { heldAtFader, liveAtFader } from '../../window/sound/live';
import { useMeasuredPart } from '../../window/sound/measured-parts';
import { stripSpectrum } from '../../window/sound/spectra';
import { useStripMeasures } from '../../window/sound/strip-measures';
import { useLiveRedraw } from '../../window/sound/use-live-redraw';
import { useRidgeTop } from '../../window/sound/use-ridge-top';
import { ChainLine } from '../../work/chain/chain-line';
import { useCompany } from '../../work/company/company-store';
import { ProbeLayer } from '../../work/probe/probe-layer';
import { BandHandles } from './band-handles';
import { BenchHead } from './bench-head';
import { benchScale, rangeFor } from './bench-scale';
import { useBenchView } from './bench-view';
import { CompanyCanvas } from './company-canvas';
import { drawBench } from './draw-bench';
import { ProcessorField } from './processor-field';

/** What is on the bench: an equalizer on the shared axis, or the picture of another processor. */
export function BenchField() {
  const processor = useChosenProcessor();
  if (processor && processor.kind !== 'equalizer') return <ProcessorField key={processor.id} processor={processor} />;
  return <EqualizerField />;
}

/** The chosen track's equalizer on the shared axis: its curve, its spectra, the handles of its bands. */
function EqualizerField() {
  const desk = useDesk();
  const axis = useAxis();
  const field = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const { height } = useSize(field);
  const strip = useChosenStrip();
  const bandId = useSelection((selection) => selection.bandId);
  const curve = useBenchView((view) => view.curve);
  const rateHz = useSong((song) => song.rateHz);
  const isEmptySong = useSong((song) => song.tracks.length === 0);
  // While a gesture goes on the scale and the order of the handles stay what they were when it began.
  const processorId = useSelection((selection) => selection.processorId);
  const path = pathIn(
    strip,
    equalizerOnBench(strip, processorId)?.id,
    useSelection((selection) => selection.path),
  );
  const settled = useSongStore(
    ({ state }) => equalizerOnBench(findStrip(state.settled, strip.id) ?? strip, processorId)?.bands,
  );
  const topDb = useRidgeTop();
  const measured = useMeasuredPart(strip.id);
  const bands = measured?.figures.stereo;
  const isCurrent = measured?.isCurrent ?? true;
  const stereo = useMemo(() => (bands ? { bands, isCurrent } : null), [bands, isCurrent]);
  const { stage, isHolding, tiltDb } = useCompany(
    useShallow((company) => ({ stage: company.stage, isHolding: company.isHolding, tiltDb: company.tiltDb })),
  );
  const crosshair = useCrosshair();
  const [rests] = useState(() => ({ ground: new Still(), labels: new Still() }));
  const equalizer = equalizerOnBench(strip, processorId);
  const rangeDb = rangeFor(settled ?? []);
  const scale = useMemo(() => benchScale(rangeDb, height), [rangeDb, height]);
  const stripId = strip.id;

  const draw = useCallback(
    (context: CanvasRenderingContext2D, _: number, __: number, tokens: Tokens) => {
      // The song as it is at this moment and at the playhead: in the middle of a drag React is behind it.
      const song = soundingSong(desk);
      const live = findStrip(song, stripId) ?? song.master;
      const liveEqualizer = equalizerOnBench(live, processorId);
      if (!liveEqualizer) return;
      drawBench(
        context,
        {
          axis,
          scale,
          equalizer: liveEqualizer,
          resting: bandsOf(findStrip(songOf(desk), stripId) ?? live),
          channels: channelsInto(live, liveEqualizer.id),
          path,
          curve,
          stereo,
          rateHz,
          chosenBandId: bandId,
          spectrum: stripSpectrum(song, live, useAnalyses.of(desk).byAudio, useStripMeasures.of(desk).measures),
          topDb,
          ink: 'ink' in live ? tokens.inks[live.ink] : tokens.soft,
          liveBefore: liveAtFader(desk, live, 'before'),
          liveAfter: liveAtFader(desk, live, 'after'),
          held: isHolding ? heldAtFader(desk, live, stage) : undefined,
          ...rests,
          tiltDb,
        },
        tokens,
      );
    },
    [
      desk,
      axis,
      scale,
      stripId,
      processorId,
      path,
      curve,
      stereo,
      rateHz,
      bandId,
      topDb,
      stage,
      isHolding,
      rests,
      tiltDb,
    ],
  );
  const redraw = useCanvas(canvas, axis.width, height, draw);
  useLiveRedraw('audioId' in strip, redraw);
  useEffect(() => {
    const isTrack = (id: string) => songOf(desk).tracks.some((track) => track.id === id);
    const endings = [
      followSounding(desk, (now, before) => {
        if (changedStrips(now, before).has(stripId)) redraw();
      }),
      // A sum follows all tracks, a few times a second.
      useSongStore.api(desk).subscribe(() => !isTrack(stripId) && redraw()),
      useAnalyses.api(desk).subscribe(redraw),
    ];
    return () => endings.forEach((end) => end());
  }, [desk, stripId, redraw]);

  if (!equalizer)
    return (
      <Frame>
        <ChainLine />
        <div />
        <Field ref={field}>
          {!isEmptySong && (
            <Begin>Nothing stands in the way of this sound. + adds an equalizer or another processor.</Begin>
          )}
        </Field>
      </Frame>
    );
  return (
    <Frame>
      <ChainLine />
      <BenchHead />
      <Field
        ref={field}
        {...crosshair}
        data-testid="bench-field"
        data-image={curve === 'image' ? (stereo ? 'measured' : 'waiting') : undefined}
        data-earshot={strip.id}
        data-hint="Double-click adds a bell here · N adds any band by words"
        onDoubleClick={(event) => {
          const box = event.currentTarget.getBoundingClientRect();
          const gainDb = tidyDb(Math.round(scale.db(event.clientY - box.top) * 2) / 2, {
            min: -scale.rangeDb,
            max: scale.rangeDb,
          });
          addBand(desk, { type: 'bell', frequencyHz: tidyHz(axis.hz(event.clientX - box.left)), gainDb });
        }}
      >
        <CompanyCanvas height={height} />
        <canvas ref={canvas} aria-hidden data-testid="bench-curve" />
        {height > 0 && (
          <BandHandles
            stripId={strip.id}
            stripName={stripName(strip)}
            bands={equalizer.bands}
            settled={settled ?? []}
            chosenBandId={bandId}
            path={path}
            axis={axis}
            scale={scale}
          />
        )}
        <Probing width={axis.width} height={height}>
          {height > 0 && <ProbeLayer height={height} y={scale.y} />}
        </Probing>
        {equalizer.bands.length === 0 && !isEmptySong && curve !== 'image' && (
          <Begin>Nothing is shaped yet. Double-click here, press N, or drag a post in from the edge of the lane.</Begin>
        )}
      </Field>
    </Frame>
  );
}

const Frame = styled.div`
  display: grid;
  grid-template-rows: 28px 28px minmax(0, 1fr);
  min-height: 0;
`;

const Field = styled(CanvasField)`
  background: var(--field);
`;
const Probing = styled.svg`
  position: absolute;
  inset: 0;
  pointer-events: none;
  > * {
    pointer-events: auto;
  }
`;
const Begin = styled.p`
  position: absolute;
  top: 34px;
  left: 0;
  right: 0;
  color: var(--soft);
  text-align: center;
  pointer-events: none;
`;
