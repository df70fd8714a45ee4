'use client';
import { memo } from 'react';
import styled from 'styled-components';
import { stripChannels } from '@/core/song';
import { Choice } from '../controls';
import { MONO_REASON } from '../signs';
import { useChosenStrip, useSelection } from '../song';
import { CURVE_NAMES, PATH_NAMES, useBenchView } from './bench-view';

/** What the bench shows of the equalizer, and which path of it is worked on. */
export function BenchHead() {
  return <Head isMono={stripChannels(useChosenStrip()) === 1} />;
}

const Head = memo(function Head({ isMono }: { isMono: boolean }) {
  const curve = useBenchView((view) => view.curve);
  const setCurve = useBenchView((view) => view.setCurve);
  const path = useSelection((selection) => selection.path);
  const choosePath = useSelection((selection) => selection.choosePath);
  return (
    <Bar>
      <span>Curve</span>
      <Choice label="Curve of the bench" value={curve} options={CURVE_NAMES} width={138} onChange={setCurve} />
      <span>Path</span>
      {isMono ? (
        <i title={MONO_REASON} data-hint={MONO_REASON}>
          one: the track is mono
        </i>
      ) : (
        <Choice label="Path of the bench" value={path} options={PATH_NAMES} width={96} onChange={choosePath} />
      )}
    </Bar>
  );
});

const Bar = styled.div`
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 0 10px;
  border-bottom: 1px solid var(--grid);
  background: var(--field);
  white-space: nowrap;
  > span,
  > i {
    color: var(--soft);
  }
  > span ~ span {
    margin-left: 10px;
  }
`;
