'use client';
import { memo } from 'react';
import styled from 'styled-components';
import { writeNumber } from '@/core/formats';
import { channelsInto, type EqualizerPhase } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { Choice } from '../../kit/controls/choice';
import { ProbeBar } from '../../work/probe/probe-bar';
import { useMeasuredParts } from '../../window/sound/measured-parts';
import { useSession } from '../../window/sound/session-store';
import { MONO_REASON } from '../../kit/signs/channels';
import { chosenBand, equalizerOnBench, useChosenStrip, useSelection } from '../../window/song/selection';
import { useSongStore } from '../../window/song/song-store';
import { CURVE_NAMES, PATH_NAMES, useBenchView, type BenchCurve } from './bench-view';

/** What the bench shows of the equalizer, which path of it is worked on, and how it treats the phase. */
export function BenchHead() {
  const strip = useChosenStrip();
  const equalizer = equalizerOnBench(
    strip,
    useSelection((selection) => selection.processorId),
  );
  return (
    <Head
      isMono={channelsInto(strip, equalizer?.id) === 1}
      equalizerId={equalizer?.id ?? ''}
      phase={equalizer?.phase ?? 'minimum'}
    />
  );
}

const PHASES: readonly { id: EqualizerPhase; name: string }[] = [
  { id: 'minimum', name: 'Minimum (turns the phase)' },
  { id: 'linear', name: 'Linear (late, pre-ringing)' },
];

const Head = memo(function Head({
  isMono,
  equalizerId,
  phase,
}: {
  isMono: boolean;
  equalizerId: string;
  phase: EqualizerPhase;
}) {
  const desk = useDesk();
  const curve = useBenchView((view) => view.curve);
  const setCurve = useBenchView((view) => view.setCurve);
  const chooseCurve = (next: BenchCurve) => {
    setCurve(next);
    if (next === 'image') void useMeasuredParts.of(desk).measure(chosenBand(desk).strip.id);
  };
  const path = useSelection((selection) => selection.path);
  const choosePath = useSelection((selection) => selection.choosePath);
  const choosePhase = (next: EqualizerPhase) => {
    const { strip, equalizer } = chosenBand(desk);
    if (!equalizer) return;
    useSongStore
      .of(desk)
      .edit({ kind: 'equalizer.set', stripId: strip.id, equalizerId: equalizer.id, changes: { phase: next } }, 'Phase');
  };
  return (
    <Bar>
      <span>Curve</span>
      <Choice label="Curve of the bench" value={curve} options={CURVE_NAMES} width={138} onChange={chooseCurve} />
      <span>Path</span>
      {isMono ? (
        <i title={MONO_REASON} data-hint={MONO_REASON}>
          one: the track is mono
        </i>
      ) : (
        <Choice label="Path of the bench" value={path} options={PATH_NAMES} width={96} onChange={choosePath} />
      )}
      <span>Phase</span>
      <Choice label="Phase of the equalizer" value={phase} options={PHASES} width={176} onChange={choosePhase} />
      {phase === 'linear' && <Latency equalizerId={equalizerId} />}
      <ProbeBar />
    </Bar>
  );
});

/** What linear phase costs this equalizer. */
function Latency({ equalizerId }: { equalizerId: string }) {
  const latency = useSession((session) => session.latencies[equalizerId]);
  if (!latency) return <i>working out …</i>;
  const { seconds, worstErrorDb } = latency;
  const strays = worstErrorDb > 0.1 && ` · too narrow a band: strays ${writeNumber(worstErrorDb)} dB`;
  const hint =
    'All other tracks and the render are brought in time with it. Sharp hits may be heard a little before they come.';
  return (
    <i title={hint} data-hint={hint}>
      {Math.round(seconds * 1000)} ms late, made up for{strays}
    </i>
  );
}

const Bar = styled.div`
  display: flex;
  align-items: center;
  gap: 8px;
  min-width: 0;
  padding: 0 10px;
  border-bottom: 1px solid var(--grid);
  background: var(--field);
  overflow: hidden;
  white-space: nowrap;
  > span,
  > i {
    color: var(--soft);
  }
  > span ~ span {
    margin-left: 10px;
  }
  @media (max-width: 1080px) {
    > span {
      display: none;
    }
  }
  > i {
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  /* In the narrowest windows the choices give way, so that Probe stays. */
  @media (max-width: 1000px) {
    > :has(> button[aria-haspopup]) {
      flex: 0 1 auto;
      min-width: 0;
      > button {
        max-width: 100%;
      }
    }
  }
`;
