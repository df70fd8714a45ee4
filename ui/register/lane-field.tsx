'use client';
import { useCallback, useRef } from 'react';
import { firstEqualizer, isEnd, newId, type Strip } from '@/core/song';
import { CanvasField, useAxis, useCanvas } from '../axis';
import { LaneClaims } from '../claims';
import { useCrosshair } from '../crosshair';
import { dragEdit } from '../gestures';
import { liveAtFader, useEdgeShade, useLiveRedraw, useSpace, useStripSpectrum } from '../session';
import { useLaneOverlaps } from '../overlaps';
import { togetherWith, useSelection, useSongStore } from '../song';
import type { Tokens } from '../theme';
import { drawLane } from './draw-lane';
import { dragBothEnds, endBand } from './end-edits';
import { LanePost, OpenEnd } from './lane-post';

/** The field of a lane on the shared axis, with its posts. */
export function LaneField({
  strip,
  height,
  topDb,
  isSilent,
}: {
  strip: Strip;
  height: number;
  topDb: number;
  isSilent: boolean;
}) {
  const axis = useAxis();
  const canvas = useRef<HTMLCanvasElement>(null);
  const spectrum = useStripSpectrum(strip);
  const crosshair = useCrosshair();
  const bands = firstEqualizer(strip)?.bands ?? [];
  const overlaps = useLaneOverlaps(strip.id);
  const space = useSpace(strip.id);
  const shade = useEdgeShade(strip.id);

  const draw = useCallback(
    (context: CanvasRenderingContext2D, _: number, __: number, tokens: Tokens) => {
      const ink = 'ink' in strip ? tokens.inks[strip.ink] : tokens.soft;
      drawLane(
        context,
        {
          axis,
          height,
          bands: firstEqualizer(strip)?.bands ?? [],
          spectrum,
          topDb,
          ink,
          isSilent,
          live: liveAtFader(strip, 'after'),
          overlaps,
          space,
          shade,
        },
        tokens,
      );
    },
    [axis, height, strip, spectrum, topDb, isSilent, overlaps, space, shade],
  );
  const redraw = useCanvas(canvas, axis.width, height, draw);
  useLiveRedraw('audioId' in strip, redraw);

  return (
    <CanvasField
      {...crosshair}
      data-earshot={strip.id}
      data-hint="Alt-drag moves both ends of the track: sideways together, up opens, down closes"
      onPointerDown={(event) => {
        // What is set together with others stays so while one of them is worked on.
        if (!togetherWith(strip.id).includes(useSelection.getState().stripId))
          useSelection.getState().chooseStrip(strip.id);
        if (!event.altKey) return;
        event.preventDefault();
        const newBandIds = { 'high-pass': newId(10), 'low-pass': newId(10) };
        dragEdit(event, 'Move both ends', ({ dx, dy }) =>
          dragBothEnds(useSongStore.getState().state.settled, strip, dx, dy, axis, newBandIds),
        );
      }}
    >
      <canvas ref={canvas} aria-hidden />
      {'audioId' in strip && <LaneClaims track={strip} />}
      {bands.map((band) => isEnd(band) && <LanePost key={band.id} strip={strip} band={band} height={height} />)}
      {!endBand(strip, 'high-pass') && <OpenEnd strip={strip} type="high-pass" height={height} />}
      {!endBand(strip, 'low-pass') && <OpenEnd strip={strip} type="low-pass" height={height} />}
    </CanvasField>
  );
}
