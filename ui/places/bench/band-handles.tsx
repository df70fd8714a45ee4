'use client';
import { memo, useRef } from 'react';
import styled from 'styled-components';
import { bandsOf, type Band, type BandChannel } from '@/core/song';
import type { FrequencyScale } from '../../kit/axis/scale';
import { useEyesOff } from '../../kit/eyes/eyes-off';
import { showAttribute } from '../../kit/frames/show';
import { placeSign, Sign } from '../../kit/signs/post';
import { useLiveStrip } from '../../window/song/use-live-strip';
import { BandHandle } from './band-handle';
import { bandSign, handlePlaces } from './band-sign';
import type { BenchScale } from './bench-scale';

interface BandHandlesProps {
  stripId: string;
  stripName: string;
  bands: readonly Band[];
  /** The bands as they are while nothing is dragged: their order is that of Tab, and does not change in the middle of a drag. */
  settled: readonly Band[];
  chosenBandId: string | null;
  path: BandChannel;
  axis: FrequencyScale;
  scale: BenchScale;
}

/** The signs of all bands and what can be taken hold of of them; both are placed outside React, so that a drag renders nothing. */
export function BandHandles({ stripId, stripName, bands, settled, chosenBandId, path, axis, scale }: BandHandlesProps) {
  const layer = useRef<HTMLDivElement>(null);
  const placed = useRef(new WeakMap<Element, Band>());
  const isEyesOff = useEyesOff((eyes) => eyes.isOff);
  useLiveStrip(stripId, (strip, hasRendered) => {
    if (!layer.current) return;
    for (const band of bandsOf(strip)) {
      const group = layer.current.querySelector(`[data-sign="${band.id}"]`);
      const handle = layer.current.querySelector(`[data-band="${band.id}"]`);
      if (!group || !handle) continue;
      // What stands where it should is left alone: of all bands a drag moves one.
      if (!hasRendered && placed.current.get(group) === band) continue;
      placed.current.set(group, band);
      placeBand(group, handle, band, axis, scale, isEyesOff);
    }
  });
  const isBeside = (channel: BandChannel) => path !== 'stereo' && channel !== 'stereo' && channel !== path;
  const settledHz = (band: Band) => (settled.find(({ id }) => id === band.id) ?? band).frequencyHz;
  const byFrequency = [...bands].sort((a, b) => settledHz(a) - settledHz(b));
  const chosenLast = [...bands].sort((a, b) => Number(a.id === chosenBandId) - Number(b.id === chosenBandId));
  return (
    <Layer ref={layer}>
      <svg width={axis.width} height={scale.height} aria-hidden>
        {chosenLast.map((band) => (
          <BandSign
            key={band.id}
            bandId={band.id}
            isChosen={band.id === chosenBandId}
            isOff={!band.enabled}
            isBeside={isBeside(band.channel)}
          />
        ))}
      </svg>
      <div role="group" aria-label={`Bands of ${stripName}`}>
        {byFrequency.map((band) => (
          <BandHandle
            key={band.id}
            stripId={stripId}
            band={band}
            axis={axis}
            scale={scale}
            isChosen={band.id === chosenBandId}
            isBeside={isBeside(band.channel)}
          />
        ))}
      </div>
    </Layer>
  );
}

interface BandSignProps {
  bandId: string;
  isChosen: boolean;
  isOff: boolean;
  isBeside: boolean;
}

/** What is drawn of a band, to be placed. */
const BandSign = memo(function BandSign({ bandId, isChosen, isOff, isBeside }: BandSignProps) {
  return (
    <SignGroup className="sign" data-sign={bandId} $chosen={isChosen} $off={isOff} $beside={isBeside}>
      <Sign />
      <path data-fence="" fill="none" stroke="currentColor" strokeDasharray="2 3" />
    </SignGroup>
  );
});

/** @param group what is drawn of the band @param handle what can be taken hold of of it */
function placeBand(
  group: Element,
  handle: Element,
  band: Band,
  axis: FrequencyScale,
  scale: BenchScale,
  isEyesOff: boolean,
): void {
  const { sign, parts } = handlePlaces(band, axis, scale, isEyesOff);
  group.setAttribute('transform', `translate(${sign.x} ${sign.y})`);
  placeSign(group, bandSign(band, axis, scale));
  const fenced = group.querySelector('[data-fence]');
  if (fenced) showAttribute(fenced, 'd', fence(band, axis, scale, sign.x));
  for (const [part, { x, y }] of Object.entries(parts)) {
    const element = handle.querySelector<HTMLElement>(`[data-part="${part}"]`);
    if (element) element.style.transform = `translate(${x}px, ${y}px)`;
  }
}

/** The stretch that a band may not leave, about the place of its sign. */
function fence({ limits }: Band, axis: FrequencyScale, scale: BenchScale, x: number): string {
  if (!limits) return '';
  return `M${axis.x(limits.minHz) - x} ${scale.y(0) - 9}v18m0 -9H${axis.x(limits.maxHz) - x}m0 -9v18`;
}

const Layer = styled.div`
  position: absolute;
  inset: 0;
  svg {
    position: absolute;
    inset: 0;
    pointer-events: none;
  }
`;
const SignGroup = styled.g<{ $chosen: boolean; $off: boolean; $beside: boolean }>`
  color: ${({ $chosen }) => ($chosen ? 'var(--accent)' : 'var(--ink)')};
  [data-lines] {
    stroke-width: 1.5;
  }
  [data-fence] {
    ${({ $chosen }) => !$chosen && 'display: none;'}
  }
  ${({ $off }) => $off && 'opacity: 0.55; [data-lines] { stroke-dasharray: 2 2; }'}
  ${({ $beside, $chosen }) => $beside && !$chosen && 'opacity: 0.4;'}
`;
