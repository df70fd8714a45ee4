'use client';
import Link from 'next/link';
import { useEffect, useMemo, useState } from 'react';
import { Cell, Column, Row, Table, TableBody, TableHeader, type SortDescriptor } from 'react-aria-components';
import { Bar, BarChart, CartesianGrid, ReferenceLine, XAxis, YAxis } from 'recharts';
import styled from 'styled-components';
import { writeFrequency, writeGain, writeNumber } from '@/core/formats';
import { MASTER_ID, type Song } from '@/core/song';
import { Button, TextButton } from '../../kit/controls/button';
import { useTheme } from '../../kit/theme/theme-store';
import { Paper } from '../paper/paper';
import type { ScoreLine } from './score-lines';
import { useScore } from './use-score';

const COLUMNS = [
  { id: 'name', name: 'Track' },
  { id: 'claim', name: 'Claim' },
  { id: 'before', name: 'Clearance before' },
  { id: 'after', name: 'after' },
  { id: 'onTop', name: 'On top' },
  { id: 'ends', name: 'Ends' },
  { id: 'moves', name: 'Moves' },
  { id: 'loudness', name: 'Loudness' },
  { id: 'peak', name: 'True peak' },
  { id: 'headroom', name: 'Headroom freed' },
] as const;
type ColumnId = (typeof COLUMNS)[number]['id'];

const LAST = -1e9;

/** What a column is sorted by. */
function sortValue(line: ScoreLine, column: ColumnId): number | string {
  switch (column) {
    case 'name':
      return line.name.toLowerCase();
    case 'claim':
      return line.claims[0]?.lowHz ?? LAST;
    case 'before':
      return line.before?.clearanceDb ?? LAST;
    case 'after':
      return line.after?.clearanceDb ?? LAST;
    case 'onTop':
      return line.after?.onTop ?? LAST;
    case 'ends':
      return line.highPassHz ?? LAST;
    case 'moves':
      return line.moves;
    case 'loudness':
      return line.measured?.integratedLufs ?? LAST;
    case 'peak':
      return line.measured?.truePeakDbtp ?? LAST;
    case 'headroom':
      return line.measured?.headroomFreedDb ?? LAST;
  }
}

/** Lines in an order; the mix stays at the end. */
export function sortedLines(lines: readonly ScoreLine[], column: ColumnId, isDescending: boolean): ScoreLine[] {
  const tracks = lines.filter(({ id }) => id !== MASTER_ID);
  const ordered = [...tracks].sort((a, b) => {
    const [first, second] = [sortValue(a, column), sortValue(b, column)];
    return (first < second ? -1 : first > second ? 1 : 0) * (isDescending ? -1 : 1);
  });
  return [...ordered, ...lines.filter(({ id }) => id === MASTER_ID)];
}

function shown(line: ScoreLine, column: ColumnId): string {
  const none = '–';
  switch (column) {
    case 'name':
      return line.name;
    case 'claim':
      return (
        line.claims.map(({ lowHz, highHz }) => `${writeFrequency(lowHz)} to ${writeFrequency(highHz)}`).join(', ') ||
        none
      );
    case 'before':
      return line.before ? writeGain(line.before.clearanceDb) : none;
    case 'after':
      return line.after ? `${line.isEstimated ? '≈ ' : ''}${writeGain(line.after.clearanceDb)}` : none;
    case 'onTop':
      return line.after ? `${Math.round(100 * line.after.onTop)} %` : none;
    case 'ends': {
      const [low, high] = [line.highPassHz, line.lowPassHz].map((hz) => (hz === null ? 'open' : writeFrequency(hz)));
      return line.highPassHz === null && line.lowPassHz === null ? 'open' : `${low} to ${high}`;
    }
    case 'moves':
      return String(line.moves);
    case 'loudness':
      if (!line.measured) return '…';
      return line.measured.integratedLufs === null ? 'silent' : `${writeNumber(line.measured.integratedLufs)} LUFS`;
    case 'peak':
      if (!line.measured) return '…';
      return line.measured.integratedLufs === null ? 'silent' : `${writeNumber(line.measured.truePeakDbtp)} dBTP`;
    case 'headroom':
      return line.measured ? writeGain(line.measured.headroomFreedDb) : '…';
  }
}

/** The score of a song: what was done to each track and what it brought, to be read and printed. */
export function ScorePage({ songId, song }: { songId: string; song: Song }) {
  const { lines, problems, percent, tryAgain } = useScore(songId, song);
  const [sort, setSort] = useState<SortDescriptor | null>(null);
  useEffect(() => useTheme.getState().start(), []);
  const ordered = useMemo(
    () => (sort ? sortedLines(lines, sort.column as ColumnId, sort.direction === 'descending') : lines),
    [lines, sort],
  );
  const done = lines.filter(({ measured }) => measured).length;
  const isEstimated = lines.some((line) => line.isEstimated);
  const isUnderway = problems.length === 0 && song.tracks.length > 0;
  const share = percent !== null && done === 0 ? `, ${percent} %` : `, ${done} of ${lines.length}`;
  return (
    <Paper>
      <header>
        <h1>{song.title}: the score</h1>
        <div data-screen>
          <span role="status">
            {isUnderway && done < lines.length && (
              <>
                measuring
                <span aria-hidden>{share}</span>
              </>
            )}
            {isUnderway && done === lines.length && isEstimated && 'clearances are being measured'}
          </span>
          <Button $outlined onPress={() => window.print()}>
            Print…
          </Button>
          <Link href={`/songs/${songId}`}>Back to the song</Link>
        </div>
      </header>
      {song.tracks.length === 0 && <p>There is nothing to score: the song has no tracks yet.</p>}
      {problems.length > 0 && (
        <p role="alert">
          The score could not be measured in full. {problems.join(' ')} What was measured is shown.{' '}
          <TextButton onPress={tryAgain}>Try again</TextButton>
        </p>
      )}
      <ClearanceBars lines={ordered} />
      <Scroll>
        <Lines aria-label="Score" sortDescriptor={sort ?? undefined} onSortChange={setSort}>
          <TableHeader>
            {COLUMNS.map(({ id, name }) => (
              <Column key={id} id={id} allowsSorting isRowHeader={id === 'name'}>
                {name}
                <span aria-hidden>{sort?.column === id ? (sort.direction === 'descending' ? ' ↓' : ' ↑') : ''}</span>
              </Column>
            ))}
          </TableHeader>
          <TableBody>
            {ordered.map((line) => (
              <Row key={line.id} id={line.id}>
                {COLUMNS.map(({ id }) => (
                  <Cell key={id}>
                    {id === 'name' && line.ink !== null && (
                      <Swatch data-ink="" style={{ background: `var(--ink-${line.ink})` }} />
                    )}
                    {shown(line, id)}
                  </Cell>
                ))}
              </Row>
            ))}
          </TableBody>
        </Lines>
      </Scroll>
      <p>
        Clearance: how far a track stands above everything else in its claim while it plays, over the whole song;
        before: without any chain; ≈: estimated, until what reacts to levels is measured from the sound (
        <a href="/how-clearance-is-measured">how it is measured</a>). Loudness by BS.1770-4, true peak by its annex 2,
        both as the engine renders the part. Headroom freed: how much lower the pass filters make the true peak.
      </p>
    </Paper>
  );
}

const BAR_ROW = 30;
const TEXT = { fill: 'var(--ink)', fontSize: 12.5 };

/** Where an axis of bars goes from and to: they begin at nothing, on whichever side they end. */
export const barDomain = (values: readonly number[]): ['auto' | 0, 'auto' | 0] => [
  values.some((value) => value < 0) ? 'auto' : 0,
  values.some((value) => value > 0) ? 'auto' : 0,
];

function ClearanceBars({ lines }: { lines: readonly ScoreLine[] }) {
  const data = lines.flatMap(({ name, before, after }) =>
    before || after ? [{ name, before: before?.clearanceDb ?? 0, after: after?.clearanceDb ?? 0 }] : [],
  );
  if (lines.every(({ claims }) => claims.length === 0))
    return <p>Claims make the score: claim a range for a track in the Register, and it stands here.</p>;
  if (data.length === 0) return null;
  const values = data.flatMap(({ before, after }) => [before, after]);
  return (
    <figure aria-label="Clearance before and after, dB">
      <BarChart
        layout="vertical"
        width={820}
        height={BAR_ROW * data.length + 34}
        data={data}
        margin={{ top: 0, right: 16, bottom: 0, left: 60 }}
        accessibilityLayer={false}
      >
        <CartesianGrid stroke="var(--grid)" horizontal={false} />
        <XAxis
          type="number"
          domain={barDomain(values)}
          tick={TEXT}
          tickFormatter={(db: number) => `${writeNumber(db, Number.isInteger(db) ? 0 : 1)} dB`}
          stroke="var(--rule)"
        />
        <YAxis type="category" dataKey="name" tick={TEXT} stroke="var(--rule)" width={96} />
        <ReferenceLine x={0} stroke="var(--ink)" />
        <Bar dataKey="before" fill="var(--rule)" barSize={8} isAnimationActive={false} />
        <Bar dataKey="after" fill="var(--claim)" barSize={8} isAnimationActive={false} />
      </BarChart>
      <figcaption>
        Clearance: <Key style={{ background: 'var(--rule)' }} /> before, <Key style={{ background: 'var(--claim)' }} />{' '}
        after
      </figcaption>
    </figure>
  );
}

const Scroll = styled.div`
  overflow-x: auto;
`;
const Lines = styled(Table)`
  width: 100%;
  border-collapse: collapse;
  th {
    padding: 6px 8px 4px 0;
    border-bottom: 2px solid var(--rule);
    color: var(--soft);
    font-weight: 500;
    text-align: left;
    white-space: nowrap;
    cursor: default;
  }
  td {
    padding: 5px 8px 5px 0;
    border-bottom: 1px solid var(--grid);
    white-space: nowrap;
  }
  td:first-child {
    font-weight: 600;
  }
  tr:last-child td {
    border-top: 2px solid var(--rule);
  }
`;
const Swatch = styled.span`
  display: inline-block;
  width: 5px;
  height: 14px;
  margin-right: 8px;
  border-radius: 1.5px;
  vertical-align: -2px;
  print-color-adjust: exact;
`;
const Key = styled.i`
  display: inline-block;
  width: 18px;
  height: 8px;
  print-color-adjust: exact;
  forced-color-adjust: none;
`;
