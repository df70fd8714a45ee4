'use client';
import { useEffect, useState } from 'react';
import { useShallow } from 'zustand/react/shallow';
import styled from 'styled-components';
import { parseFrequency, writeDelay, writeFrequency, writeGain, type Typed } from '@/core/formats';
import type { Alignment, RangeGain } from '@/core/measure';
import { useDesk } from '../../window/desk/desk';
import { Button, ToggleButton } from '../../kit/controls/button';
import { FigureRow } from '../../kit/controls/figure-row';
import { PanelLine } from '../../kit/controls/panel';
import { ValueField } from '../../kit/controls/value-field';
import { useSelection } from '../../window/song/selection';
import { useSong, useSongStore } from '../../window/song/song-store';
import { endPlaces, findPlaces, hearPlaces, moveOf, useAlignment, type FoundTrack } from './alignment-store';

/** A corner that may be left open. */
const parseEnd = (text: string): Typed<number | 'open'> =>
  /^(open|all|)$/i.test(text.trim()) ? 'open' : parseFrequency(text);

/** Of several chosen tracks: at which delay and polarity they add up best with the first of them. */
export function AlignmentSection() {
  const desk = useDesk();
  const chosen = useSelection(useShallow(({ stripId, others }) => [stripId, ...others]));
  const trackIds = useSong(
    useShallow(({ tracks }) => chosen.filter((id) => tracks.some((track) => track.id === id)).slice(0, 16)),
  );
  const { isLooking, found } = useAlignment();
  const [lowHz, setLow] = useState<number | null>(null);
  const [highHz, setHigh] = useState<number | null>(null);
  const places = useSongStore(({ state }) =>
    state.settled.tracks.map(({ delayMs, polarityInverted }) => `${delayMs} ${polarityInverted}`).join(),
  );
  // What is tried is gone when others are chosen, and when a delay is typed or a polarity turned meanwhile: those count then.
  const key = trackIds.join();
  useEffect(() => () => endPlaces(desk, false), [desk, key, places]);
  if (trackIds.length < 2) return null;
  const band = lowHz === null && highHz === null ? null : { lowHz: lowHz ?? 20, highHz: highHz ?? 20000 };
  const end = (label: string, hz: number | null, set: (hz: number | null) => void) => (
    <ValueField
      label={label}
      shown={hz === null ? 'open' : writeFrequency(hz)}
      parse={parseEnd}
      example="80, 2.5k, or open"
      width={64}
      onCommit={(typed) => set(typed === 'open' ? null : typed)}
    />
  );
  return (
    <Section role="group" aria-label="Add up">
      <FigureRow>
        <span>Add up</span>
        <Ends>
          {end('Add up from', lowHz, setLow)} to {end('Add up to', highHz, setHigh)}
        </Ends>
      </FigureRow>
      <Button
        isDisabled={isLooking || (band !== null && band.lowHz >= band.highHz)}
        data-hint="Finds the delay and the polarity at which the chosen tracks are loudest together with the first of them"
        onPress={() => void findPlaces(desk, trackIds, band)}
      >
        {isLooking ? 'Listening …' : 'Find delay and polarity'}
      </Button>
      {found && (
        <Found
          role="status"
          ref={(element) => {
            element?.scrollIntoView({ block: 'nearest' });
          }}
        >
          {found.tracks.map((track) => (
            <Row key={track.trackId} {...track} firstName={found.firstName} />
          ))}
          {found.tracks.some(({ alignment }) => moveOf(alignment)) && (
            <PanelLine>
              <ToggleButton
                isSelected={found.isHeard}
                data-hint="As it was found, or as it was"
                onChange={(isHeard) => hearPlaces(desk, isHeard)}
              >
                Hear it
              </ToggleButton>
              <Button $strong onPress={() => endPlaces(desk, true)}>
                Keep
              </Button>
              <Button onPress={() => endPlaces(desk, false)}>Take back</Button>
            </PanelLine>
          )}
        </Found>
      )}
    </Section>
  );
}

/** How a track has to be moved, in words. */
function moveText({ delaySeconds, inverted }: NonNullable<Alignment['best']>): string {
  const ms = Math.round(delaySeconds * 1e6) / 1000;
  const place = ms === 0 ? 'where it is' : `${writeDelay(Math.abs(ms))} ${ms > 0 ? 'later' : 'earlier'}`;
  return inverted ? `${place}, turned` : place;
}

function Row({ name, firstName, alignment }: FoundTrack & { firstName: string }) {
  const { best } = alignment;
  if (!best)
    return (
      <p>
        <b>{name}</b>: nothing to be won, it has too little in common with {firstName}.
      </p>
    );
  if (!moveOf(alignment))
    return (
      <p>
        <b>{name}</b>: nothing to be won, it adds up with {firstName} as it is.
      </p>
    );
  return (
    <div>
      <p>
        <b>{name}</b>
        <Won data-sound>{writeGain(best.wonDb)}</Won>
      </p>
      <p>{moveText(best)}</p>
      <RangeBars ranges={best.byRange} />
    </div>
  );
}

/** So much stands at the top of the bars, dB. */
const TOP_DB = 12;
const HALF = 20;

/** What is won in each octave: upwards what becomes louder, hatched downwards what becomes softer. */
function RangeBars({ ranges }: { ranges: readonly RangeGain[] }) {
  return (
    <Bars data-sound role="img" aria-label={ranges.map(rangeText).join(', ')}>
      {ranges.map((range) => {
        const size = Math.min(1, Math.abs(range.wonDb) / TOP_DB) * HALF;
        const hz = Math.sqrt(range.lowHz * range.highHz);
        return (
          <div key={hz} data-hint={rangeText(range)}>
            <i
              data-lost={range.wonDb < 0 || undefined}
              style={{ height: size, marginTop: range.wonDb < 0 ? HALF : HALF - size }}
            />
            <small>{hz < 1000 ? Math.round(hz) : `${Math.round(hz / 1000)}k`}</small>
          </div>
        );
      })}
    </Bars>
  );
}
const rangeText = ({ lowHz, highHz, wonDb }: RangeGain) =>
  `${writeFrequency(Math.sqrt(lowHz * highHz))} ${writeGain(wonDb)}`;

const Section = styled.div`
  margin: 4px -16px;
  padding: 4px 16px 6px;
  border-block: 1px solid var(--grid);
`;
const Ends = styled.div`
  display: flex;
  align-items: center;
  gap: 6px;
`;
const Found = styled.div`
  margin-top: 6px;
  p {
    margin: 2px 0;
  }
`;
const Won = styled.span`
  float: right;
  color: var(--claim);
  font-weight: 600;
`;
const Bars = styled.div`
  display: flex;
  gap: 3px;
  margin: 2px 0 4px;
  > div {
    flex: 1;
    height: ${2 * HALF + 14}px;
    background: linear-gradient(var(--rule), var(--rule)) 0 ${HALF}px / 100% 1px no-repeat;
  }
  i {
    display: block;
    margin-inline: 2px;
    background: var(--claim);
  }
  i[data-lost] {
    background: repeating-linear-gradient(45deg, var(--accent) 0 1px, transparent 1px 4px);
  }
  small {
    position: relative;
    display: block;
    height: 0;
    color: var(--soft);
    font-size: 10px;
    text-align: center;
  }
`;
