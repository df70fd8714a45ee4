'use client';
import styled from 'styled-components';
import type { Difference } from '@/core/recall';

/** What differs between two states, side by side. */
export function DifferenceTable(props: {
  title: string;
  first: string;
  second: string;
  differences: readonly Difference[];
}) {
  const { title, first, second, differences } = props;
  if (differences.length === 0)
    return (
      <p role="status">
        Nothing differs between {first} and {second}.
      </p>
    );
  return (
    <Table>
      <caption>
        {title}: {differences.length === 1 ? 'one thing differs' : `${differences.length} things differ`}
      </caption>
      <thead>
        <tr>
          <th scope="col">Track</th>
          <th scope="col">What</th>
          <th scope="col">{first}</th>
          <th scope="col">{second}</th>
        </tr>
      </thead>
      <tbody>
        {differences.map((line, i) => (
          <tr key={`${line.strip}/${line.label}`} data-first={line.strip !== differences[i - 1]?.strip || undefined}>
            <th scope="row">{line.strip !== differences[i - 1]?.strip && line.strip}</th>
            <td>{line.label}</td>
            <td>{line.first ?? <i>not there</i>}</td>
            <td>{line.second ?? <i>not there</i>}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  caption {
    margin-bottom: 10px;
    text-align: left;
    color: var(--soft);
  }
  th,
  td {
    padding: 4px 12px 4px 0;
    border-bottom: 1px solid var(--grid);
    text-align: left;
    vertical-align: baseline;
    overflow-wrap: anywhere;
  }
  thead th {
    border-bottom: 2px solid var(--rule);
    color: var(--soft);
    font-weight: 500;
  }
  tbody th {
    width: 15%;
  }
  tr[data-first] > * {
    border-top: 1.5px solid var(--rule);
  }
  td:nth-of-type(1) {
    width: 22%;
    color: var(--soft);
  }
  i {
    color: var(--soft);
  }
`;
