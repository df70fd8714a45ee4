'use client';
import { bandsOf, findStrip, isEnd, newId } from '@/core/song';
import { useAxis } from '../../kit/axis/axis-context';
import { CanvasField } from '../../kit/axis/canvas-field';
import { useCrosshair } from '../../window/crosshair/use-crosshair';
import { useDesk } from '../../window/desk/desk';
import { dragEdit } from '../../window/song/edit-drag';
import { settledSong } from '../../window/song/live-song';
import { togetherWith, useSelection } from '../../window/song/selection';
import { useSong } from '../../window/song/song-store';
import { LaneClaims } from '../../work/claims/lane-claims';
import { LaneKey } from '../../work/chain/lane-key';
import { LaneSend } from '../../work/tracks/lane-send';
import { dragBothEnds, endBand } from '../../work/ends/end-edits';
import { LanePost, OpenEnd } from '../../work/ends/lane-post';

/** In lanes that are lower than this nothing can be taken hold of. */
const LOW_FIELD = 24;

/** What can be taken hold of in a lane: its posts, its claims, and the field itself. */
export function LaneField({ stripId, height, isReached }: { stripId: string; height: number; isReached: boolean }) {
  const desk = useDesk();
  const axis = useAxis();
  const strip = useSong((song) => findStrip(song, stripId));
  const crosshair = useCrosshair();
  if (!strip) return null;
  const ends = bandsOf(strip).filter(isEnd);
  const part = { strip, height, isReached };
  return (
    <CanvasField
      {...crosshair}
      data-earshot={stripId}
      data-testid={`lane-field-${stripId}`}
      data-hint="Alt-drag moves both ends of the track: sideways together, up opens, down closes"
      onPointerDown={(event) => {
        // What is set together with others stays so while one of them is worked on.
        if (!togetherWith(desk, stripId).includes(useSelection.of(desk).stripId))
          useSelection.of(desk).chooseStrip(stripId);
        if (!event.altKey) return;
        event.preventDefault();
        const newBandIds = { 'high-pass': newId(10), 'low-pass': newId(10) };
        dragEdit(desk, event, 'Move both ends', ({ dx, dy }) =>
          dragBothEnds(settledSong(desk), strip, dx, dy, axis, newBandIds),
        );
      }}
    >
      {height >= LOW_FIELD && (
        <>
          {ends.map((band) => (
            <LanePost key={band.id} {...part} band={band} />
          ))}
          {!endBand(strip, 'high-pass') && <OpenEnd {...part} type="high-pass" />}
          {!endBand(strip, 'low-pass') && <OpenEnd {...part} type="low-pass" />}
          <LaneKey stripId={stripId} height={height} />
          <LaneSend stripId={stripId} isReached={isReached} />
          {'claims' in strip && (
            <LaneClaims id={strip.id} name={strip.name} claims={strip.claims} isReached={isReached} />
          )}
        </>
      )}
    </CanvasField>
  );
}
