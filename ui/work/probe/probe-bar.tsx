'use client';
import styled from 'styled-components';
import { parseGain, parseQ, writeGain, writeNumber } from '@/core/formats';
import { useDesk } from '../../window/desk/desk';
import { TextButton } from '../../kit/controls/button';
import { ValueField } from '../../kit/controls/value-field';
import { stepDb, stepQ } from '../../kit/gestures/steps';
import { useListening } from '../../window/sound/listening';
import { PROBE_GAIN_DB, PROBE_Q, toggleProbe, useProbe } from './probe-store';

/** The probe as a switch, for those who do not hold the key, with its boost and width while it sounds. */
export function ProbeBar() {
  const desk = useDesk();
  const isProbing = useListening((listening) => listening.probe !== null);
  const { gainDb, q, setGain, setQ } = useProbe();
  return (
    <Row>
      {isProbing && (
        <>
          <ValueField
            label="Boost of the probe"
            shown={writeGain(gainDb)}
            parse={(text) => parseGain(text, PROBE_GAIN_DB)}
            example="6 dB, 3 to 15"
            width={64}
            onCommit={setGain}
            onStep={(direction, size) => setGain(stepDb(gainDb, direction, size, PROBE_GAIN_DB))}
          />
          <ValueField
            label="Width of the probe"
            shown={`Q ${writeNumber(q)}`}
            parse={(text) => parseQ(text, PROBE_Q)}
            example="8, 2 to 24"
            width={52}
            onCommit={setQ}
            onStep={(direction, size) => setQ(stepQ(q, direction === 1 ? -1 : 1, size))}
          />
        </>
      )}
      <TextButton
        aria-pressed={isProbing}
        data-hint="A narrow boost under the pointer, to find what rings · P held: ← → moves it, M marks, F turns the mark into a cut"
        onPress={() => toggleProbe(desk)}
      >
        {isProbing ? 'End the probe' : 'Probe'}
      </TextButton>
    </Row>
  );
}

const Row = styled.div`
  display: flex;
  flex: none;
  align-items: center;
  gap: 6px;
  margin-left: auto;
`;
