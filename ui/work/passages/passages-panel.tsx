'use client';
import { useMemo, useState } from 'react';
import styled from 'styled-components';
import { describeChanges, rivals } from '@/core/passages';
import { writePlace } from '@/core/grid';
import { writeTime } from '@/core/formats';
import type { Passage } from '@/core/song';
import { TextButton, ToggleButton } from '../../kit/controls/button';
import { PanelBody, PanelLine } from '../../kit/controls/panel';
import { useDesk } from '../../window/desk/desk';
import { useOpenPassage } from '../../window/song/open-passage';
import { useSongStore } from '../../window/song/song-store';
import { GridSection } from './grid-section';
import { PartsSection } from './parts-section';
import { PassageDetails } from './passage-details';
import {
  markPassage,
  openPassage,
  passageOfBarBefore,
  passageOfLoop,
  passageOfPart,
  pastePassage,
  switchPassage,
  usePassageWork,
} from './passage-edits';

/** So many are listed at once. */
const LISTED = 60;

/** What differs where: passages, parts, bars and beats. */
export function PassagesPanel() {
  const desk = useDesk();
  const passages = useSongStore(({ state }) => state.document.passages);
  const marked = usePassageWork((work) => work.markedSeconds);
  const copied = usePassageWork((work) => work.copied);
  const [isWhole, setWhole] = useState(false);
  const sorted = useMemo(
    () => [...passages].sort((first, second) => first.startSeconds - second.startSeconds),
    [passages],
  );
  const listed = isWhole ? sorted : sorted.slice(0, LISTED);
  return (
    <PanelBody aria-label="Passages">
      <h2>Passages</h2>
      {passages.length === 0 && (
        <p>
          A passage is a span in which some settings differ. Make one, then change what should differ with any control.
        </p>
      )}
      <PanelLine>
        <TextButton
          data-hint="At the playhead: once where it begins, once where it ends · I"
          onPress={() => markPassage(desk)}
        >
          {marked === null ? '+ From here' : `+ From ${writeTime(marked)} to here`}
        </TextButton>
        <TextButton data-hint="A passage as long as the loop" onPress={() => passageOfLoop(desk)}>
          + Loop
        </TextButton>
        <TextButton
          data-hint="A passage as long as the part that the playhead is in"
          onPress={() => passageOfPart(desk)}
        >
          + Part
        </TextButton>
        <TextButton
          data-hint="The bar before the part that the playhead is in"
          onPress={() => passageOfBarBefore(desk)}
        >
          + Bar before
        </TextButton>
        {copied && (
          <TextButton data-hint={`“${copied.name}” at the playhead`} onPress={() => pastePassage(desk)}>
            Paste
          </TextButton>
        )}
      </PanelLine>
      <Rows>
        {listed.map((passage) => (
          <Row key={passage.id} passage={passage} />
        ))}
      </Rows>
      {sorted.length > listed.length && (
        <TextButton onPress={() => setWhole(true)}>All {sorted.length} passages</TextButton>
      )}
      <PartsSection />
      <GridSection />
    </PanelBody>
  );
}

function Row({ passage }: { passage: Passage }) {
  const desk = useDesk();
  const isOpen = useOpenPassage((state) => state.passageId === passage.id);
  const isChosen = usePassageWork((work) => work.chosenId === passage.id);
  const document = useSongStore(({ state }) => state.document);
  const lines = useMemo(() => describeChanges(document, passage.changes), [document, passage.changes]);
  const { over, under } = rivals(document.passages, passage);
  const { grid } = document;
  const place = grid
    ? `${writePlace(grid, passage.startSeconds)} to ${writePlace(grid, passage.endSeconds)}`
    : `${writeTime(passage.startSeconds)} to ${writeTime(passage.endSeconds)}`;
  return (
    <Item $isOff={!passage.enabled} data-open={isOpen || undefined}>
      <header>
        <Name
          type="button"
          aria-expanded={isChosen}
          onClick={() => usePassageWork.of(desk).choose(isChosen ? null : passage.id)}
        >
          {passage.name}
        </Name>
        <small>{place}</small>
        <ToggleButton
          isSelected={isOpen}
          aria-label={`Open ${passage.name}`}
          data-hint="While it is open, what is changed belongs to it · D"
          onChange={() => (isOpen ? useOpenPassage.of(desk).open(null) : openPassage(desk, passage.id))}
        >
          {isOpen ? 'Close' : 'Open'}
        </ToggleButton>
        <ToggleButton
          isSelected={passage.enabled}
          aria-label={`${passage.name} on or off`}
          onChange={() => switchPassage(desk, passage)}
        >
          {passage.enabled ? 'On' : 'Off'}
        </ToggleButton>
      </header>
      {lines.length === 0 ? <p>Nothing differs yet.</p> : lines.map((line) => <p key={line}>{line}</p>)}
      {over.length > 0 && <p>Stands over {over.map(({ name }) => `“${name}”`).join(', ')} where both set the same.</p>}
      {under.length > 0 && (
        <p>{under.map(({ name }) => `“${name}”`).join(', ')} stands over it where both set the same.</p>
      )}
      {isChosen && <PassageDetails key={passage.id} passage={passage} />}
    </Item>
  );
}

const Rows = styled.ul`
  margin: 4px -16px 10px;
  padding: 0;
  list-style: none;
`;
const Item = styled.li<{ $isOff: boolean }>`
  padding: 5px 16px;
  border-bottom: 1px solid var(--grid);
  &[data-open] {
    border-left: 3px solid var(--accent);
    padding-left: 13px;
  }
  header {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto auto;
    align-items: center;
    gap: 0 6px;
  }
  small {
    grid-row: 2;
    color: var(--soft);
    font-size: 12px;
  }
  > p {
    margin: 0;
    font-size: 12.5px;
    overflow-wrap: anywhere;
  }
  ${({ $isOff }) => $isOff && '> p, small { opacity: 0.55; }'}
`;
const Name = styled.button`
  min-height: 24px;
  padding: 0;
  overflow: hidden;
  border: 0;
  background: none;
  color: var(--ink);
  font-weight: 600;
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: default;
`;
