'use client';
import { useEffect, useRef, useState, type RefObject } from 'react';
import type { RegisterRow } from '@/core/song';
import { useAxis } from '../../kit/axis/axis-context';
import { useEyesOff } from '../../kit/eyes/eyes-off';
import { frameStrain, useFrames } from '../../kit/frames/use-frames';
import { useTheme } from '../../kit/theme/theme-store';
import { useDesk } from '../../window/desk/desk';
import { followSounding } from '../../window/song/sounding-song';
import { useSelection } from '../../window/song/selection';
import { useSongStore } from '../../window/song/song-store';
import { useAnalyses } from '../../window/sound/analyses';
import { liveRevision } from '../../window/sound/live';
import { useMix } from '../../window/sound/mix';
import { useStripMeasures } from '../../window/sound/strip-measures';
import { useEdgeShade } from '../../work/ends/edge-shade';
import { RegisterPicture } from './register-picture';

interface RegisterCanvasProps {
  rows: readonly RegisterRow[];
  laneHeight: number;
  /** Of what is in sight, CSS pixels. */
  height: number;
  /** What the lanes are scrolled by. */
  scroller: RefObject<HTMLElement | null>;
}

/** While it plays the lanes take turns: each is drawn every third frame, or less often where frames come late. */
const TURNS = 3;

/** The picture of all lanes behind what can be taken hold of: one canvas as large as what is in sight. */
export function RegisterCanvas({ rows, laneHeight, height, scroller }: RegisterCanvasProps) {
  const desk = useDesk();
  const axis = useAxis();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [picture] = useState(() => new RegisterPicture(desk));
  const live = useRef({ frame: 0, revision: 0 });

  useEffect(() => {
    picture.layOut(canvas.current, { rows, laneHeight, height, axis });
  }, [picture, rows, laneHeight, height, axis]);
  useEffect(() => {
    const scrolled = scroller.current;
    const scroll = () => picture.scrollTo(scrolled?.scrollTop ?? 0);
    const all = () => picture.touchAll();
    const endings = [
      followSounding(desk, (now, before) => picture.touchChanged(now, before)),
      // Sums follow lists and figures: a few times a second while something is dragged.
      useSongStore.api(desk).subscribe((now, before) => {
        picture.touchSums();
        if (now.state.song.leftOverlaps !== before.state.song.leftOverlaps) picture.touchJudged();
      }),
      useAnalyses.api(desk).subscribe(all),
      useMix.api(desk).subscribe(() => picture.touchJudged()),
      useStripMeasures.api(desk).subscribe(() => picture.touchInTime()),
      useSelection.api(desk).subscribe(all),
      useEdgeShade.api(desk).subscribe(all),
      useTheme.subscribe(all),
      useEyesOff.subscribe(all),
    ];
    scrolled?.addEventListener('scroll', scroll);
    return () => {
      scrolled?.removeEventListener('scroll', scroll);
      endings.forEach((end) => end());
      picture.stop();
    };
  }, [desk, picture, scroller]);
  useFrames(() => {
    const { current } = live;
    current.frame++;
    const turn = current.frame % (TURNS * frameStrain());
    if (current.revision === liveRevision(desk) || turn >= TURNS) return;
    picture.touchTurn(turn, TURNS);
    if (turn === TURNS - 1) current.revision = liveRevision(desk);
  });
  return (
    <canvas
      ref={canvas}
      aria-hidden
      data-testid="register-canvas"
      style={{ position: 'absolute', top: 0, right: 0, width: axis.width, height }}
    />
  );
}
