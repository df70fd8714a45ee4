'use client';
import { useEffect } from 'react';
import styled from 'styled-components';
import { TextButton } from '../../kit/controls/button';
import { PanelBody } from '../../kit/controls/panel';
import { useDesk } from '../../window/desk/desk';
import { useServerReturns } from '../../window/outbox/use-server-returns';
import { useSongStore } from '../../window/song/song-store';
import { useVisited } from '../../window/song/visited';
import {
  loadEarlier,
  loadHistory,
  useHistory,
  visit,
  writeAt,
  writeClock,
  writeDay,
  type HistoryLine,
} from './history-store';

/** Words that a line shows; the rest is told when it is pointed at. */
const WORDS_SHOWN = 3;
/** The journal is asked for when nothing has been changed for so long. */
const REST_MS = 600;

/** What was done, the latest first. */
export function HistoryPanel() {
  const desk = useDesk();
  const { lines, named, more } = useHistory();
  const revision = useSongStore((store) => store.state.revision);
  const returns = useServerReturns();
  useEffect(() => {
    const timer = setTimeout(() => void loadHistory(desk), useHistory.of(desk).lines ? REST_MS : 0);
    return () => clearTimeout(timer);
  }, [desk, revision, returns]);
  return (
    <PanelBody aria-label="History">
      {named.length > 0 && (
        <>
          <h2>Named moments</h2>
          <Moments aria-label="Named moments">
            {named.map((line) => (
              <MomentRow key={line.revision} line={line} when={writeAt(line.at)} />
            ))}
          </Moments>
        </>
      )}
      <h2>History</h2>
      {lines?.length === 0 && <p>Nothing was changed yet.</p>}
      <Moments aria-label="Changes, the latest first">
        {lines?.map((line, i) => (
          <MomentRow
            key={line.revision}
            line={line}
            when={writeClock(line.at)}
            day={i === 0 || writeDay(lines[i - 1].at) !== writeDay(line.at) ? writeDay(line.at) : undefined}
          />
        ))}
      </Moments>
      {more !== null && <TextButton onPress={() => void loadEarlier(desk)}>Earlier…</TextButton>}
    </PanelBody>
  );
}

function MomentRow({ line, when, day }: { line: HistoryLine; when: string; day?: string }) {
  const desk = useDesk();
  const isShown = useVisited(({ moment }) => moment?.revision === line.revision);
  const shown = line.words.slice(0, WORDS_SHOWN);
  const rest = line.words.length - shown.length;
  const text = [line.name && `“${line.name}”`, ...shown].filter(Boolean);
  return (
    <>
      {day && <Day>{day}</Day>}
      <li data-shown={isShown || undefined} title={line.words.join('\n')}>
        <time dateTime={line.at}>{when}</time>
        <div>
          {text.map((word, i) => (
            <p key={i}>{word}</p>
          ))}
          {rest > 0 && <p>and {rest} more</p>}
        </div>
        <TextButton
          aria-label={`See ${line.name || line.words[0]}, ${when}`}
          aria-pressed={isShown}
          data-hint="The song as it was after this, seen and heard; it stays as it is"
          onPress={() => void visit(desk, line)}
        >
          See
        </TextButton>
      </li>
    </>
  );
}

const Moments = styled.ol`
  margin: 2px -16px 8px;
  padding: 0;
  list-style: none;
  li {
    display: grid;
    grid-template-columns: auto minmax(0, 1fr) auto;
    gap: 0 9px;
    align-items: baseline;
    padding: 3px 16px;
    border-bottom: 1px solid var(--grid);
  }
  li[data-shown] {
    background: var(--selected);
    box-shadow: inset 5px 0 0 var(--accent);
  }
  time {
    color: var(--soft);
    font-size: 12.5px;
  }
  li p {
    display: -webkit-box;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
    overflow: hidden;
    color: var(--ink);
    overflow-wrap: anywhere;
  }
`;
const Day = styled.li`
  && {
    display: block;
    color: var(--soft);
    font-size: 12.5px;
  }
`;
