'use client';
import { useCallback, useMemo, useRef } from 'react';
import styled from 'styled-components';
import { findStrip, firstEqualizer, stripChannels, type BandChannel } from '@/core/song';
import { CanvasField, useAxis, useCanvas, useSize } from '../axis';
import { useCrosshair } from '../crosshair';
import { tidyDb, tidyHz } from '../gestures';
import { heldAtFader, liveAtFader, useCompany, useLiveRedraw, useRidgeTop, useStripSpectrum } from '../session';
import { ProbeLayer } from '../probe';
import { addBand, currentSong, pathIn, stripName, useChosenStrip, useSelection, useSong, useSongStore } from '../song';
import { BandHandle } from './band-handle';
import { BenchHead } from './bench-head';
import { CompanyCanvas } from './company-canvas';
import { benchScale, rangeFor } from './bench-scale';
import { useBenchView } from './bench-view';
import { drawBench } from './draw-bench';

/** The chosen track's equalizer on the shared axis: its curve, its spectra, the handles of its bands. */
export function BenchField() {
  const axis = useAxis();
  const field = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const { height } = useSize(field);
  const strip = useChosenStrip();
  const bandId = useSelection((selection) => selection.bandId);
  const path = pathIn(
    strip,
    useSelection((selection) => selection.path),
  );
  const curve = useBenchView((view) => view.curve);
  const rateHz = useSong((song) => song.rateHz);
  // While a gesture goes on the scale stays what it was when it began.
  const settledBands = useSongStore(({ state }) => firstEqualizer(findStrip(state.settled, strip.id) ?? strip)?.bands);
  const topDb = useRidgeTop();
  const spectrum = useStripSpectrum(strip);
  const { stage, isHolding, tiltDb } = useCompany();
  const crosshair = useCrosshair();
  const equalizer = firstEqualizer(strip);
  const rangeDb = rangeFor(settledBands ?? []);
  const scale = useMemo(() => benchScale(rangeDb, height), [rangeDb, height]);

  const draw = useCallback(
    (context: CanvasRenderingContext2D, _: number, __: number, tokens: Parameters<typeof drawBench>[2]) => {
      if (!equalizer) return;
      drawBench(
        context,
        {
          axis,
          scale,
          equalizer,
          channels: stripChannels(strip),
          path,
          curve,
          rateHz,
          chosenBandId: bandId,
          spectrum,
          topDb,
          ink: 'ink' in strip ? tokens.inks[strip.ink] : tokens.soft,
          liveBefore: liveAtFader(strip, 'before'),
          liveAfter: liveAtFader(strip, 'after'),
          held: isHolding ? heldAtFader(strip, stage) : undefined,
          tiltDb,
        },
        tokens,
      );
    },
    [axis, scale, equalizer, path, curve, rateHz, bandId, spectrum, topDb, strip, stage, isHolding, tiltDb],
  );
  const redraw = useCanvas(canvas, axis.width, height, draw);
  useLiveRedraw('audioId' in strip, redraw);

  if (!equalizer) return <Field ref={field} />;
  const isBeside = (channel: BandChannel) => path !== 'stereo' && channel !== 'stereo' && channel !== path;
  const bands = [...equalizer.bands].sort((a, b) => Number(a.id === bandId) - Number(b.id === bandId));
  return (
    <Frame>
      <BenchHead />
      <Field
        ref={field}
        {...crosshair}
        data-testid="bench-field"
        data-earshot={strip.id}
        data-hint="Double-click adds a bell here · N adds any band by words"
        onDoubleClick={(event) => {
          const box = event.currentTarget.getBoundingClientRect();
          const gainDb = tidyDb(Math.round(scale.db(event.clientY - box.top) * 2) / 2, {
            min: -scale.rangeDb,
            max: scale.rangeDb,
          });
          addBand({ type: 'bell', frequencyHz: tidyHz(axis.hz(event.clientX - box.left)), gainDb });
        }}
      >
        <CompanyCanvas height={height} />
        <canvas ref={canvas} aria-hidden data-testid="bench-curve" />
        <svg role="group" aria-label={`Bands of ${stripName(strip)}`} width={axis.width} height={height}>
          {height > 0 &&
            bands.map((band) => (
              <BandHandle
                key={band.id}
                stripId={strip.id}
                band={band}
                axis={axis}
                scale={scale}
                isChosen={band.id === bandId}
                isBeside={isBeside(band.channel)}
              />
            ))}
          {height > 0 && <ProbeLayer height={height} y={scale.y} />}
        </svg>
        {equalizer.bands.length === 0 && currentSong().tracks.length > 0 && (
          <Begin>Nothing is shaped yet. Double-click here, press N, or drag a post in from the edge of the lane.</Begin>
        )}
      </Field>
    </Frame>
  );
}

const Frame = styled.div`
  display: grid;
  grid-template-rows: 28px minmax(0, 1fr);
  min-height: 0;
`;

const Field = styled(CanvasField)`
  background: var(--field);
  svg {
    position: absolute;
    inset: 0;
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
