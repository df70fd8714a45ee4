'use client';
import styled from 'styled-components';
import { PROCESSOR_WORDS } from '@/core/formats';
import type { ProcessorSettings } from '@/core/processors';
import type { Strip } from '@/core/song';
import { SERIF } from '../../kit/theme/tokens';
import { useDesk } from '../../window/desk/desk';
import { changeProcessor, type ProcessorChanges } from '../../window/song/processor-edits';
import { stripName } from '../../window/song/selection';
import { EndFields, KeyFields } from './key-fields';

/** What the processor on the bench listens to, and where it acts. */
export function KeyPanel({ strip, processor }: { strip: Strip; processor: ProcessorSettings }) {
  const desk = useDesk();
  const set = (changes: ProcessorChanges, label: string) => changeProcessor(desk, strip.id, processor, changes, label);
  return (
    <Side aria-label="Bench">
      <Head>
        <h2>Bench</h2>
        <span title={stripName(strip)}>{stripName(strip)}</span>
      </Head>
      <p>{PROCESSOR_WORDS[processor.kind].what}</p>
      {'key' in processor && (
        <>
          <h3>Listens to</h3>
          <KeyFields
            stripId={strip.id}
            listenerId={processor.id}
            value={processor.key}
            onChange={(key, label) => set({ key }, label)}
          />
        </>
      )}
      {'range' in processor && (
        <>
          <h3>{{ ducker: 'Gives way', reverb: 'Heard of it', echo: 'Comes back' }[processor.kind]}</h3>
          <EndFields
            range={processor.range}
            what="range"
            onChange={(changes) => set({ range: changes }, 'Range of a processor')}
          />
        </>
      )}
    </Side>
  );
}

const Side = styled.section`
  min-width: 0;
  min-height: 0;
  padding: 8px 14px 6px 18px;
  overflow-y: auto;
  h3 {
    margin: 8px 0 3px;
    color: var(--soft);
    font: italic 400 14px/1.3 ${SERIF};
  }
  p {
    margin: 0;
    color: var(--soft);
  }
  > div {
    grid-template-columns: 34px auto;
  }
`;
const Head = styled.header`
  display: flex;
  align-items: baseline;
  gap: 9px;
  padding-bottom: 6px;
  h2 {
    font: italic 400 18px/1.2 ${SERIF};
  }
  span {
    min-width: 0;
    overflow: hidden;
    font-weight: 600;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
