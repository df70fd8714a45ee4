'use client';
import { Tab, TabList, TabPanel, Tabs } from 'react-aria-components';
import styled from 'styled-components';
import { WORKS } from '../../work/works';
import { useSide } from './side-store';

const PANELS = WORKS.flatMap(({ panel }) => panel ?? []);

/** Beside the Register: one thing at a time. */
export function Side() {
  const tab = useSide((side) => side.tab);
  const show = useSide((side) => side.show);
  return (
    <Frame selectedKey={tab} onSelectionChange={(key) => show(String(key))}>
      <List aria-label="Side">
        {PANELS.map(({ id, name }) => (
          <One key={id} id={id}>
            {name}
          </One>
        ))}
      </List>
      {PANELS.map(({ id, Panel }) => (
        <Place key={id} id={id}>
          <Panel />
        </Place>
      ))}
    </Frame>
  );
}

const Frame = styled(Tabs)`
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  grid-template-columns: minmax(0, 1fr);
  min-width: 0;
  min-height: 0;
`;
const List = styled(TabList)`
  display: flex;
  flex-wrap: wrap;
  gap: 0 9px;
  padding: 2px 6px 0 16px;
  border-bottom: 1px solid var(--grid);
`;
const One = styled(Tab)`
  padding: 3px 0 2px;
  border-bottom: 2px solid var(--unseen);
  color: var(--soft);
  font-size: 12px;
  font-weight: 500;
  outline: none;
  cursor: default;
  &[data-hovered] {
    color: var(--ink);
  }
  &[data-selected] {
    border-bottom-color: var(--ink);
    color: var(--ink);
  }
  &[data-focus-visible] {
    outline: 2px solid var(--claim);
    outline-offset: 1px;
  }
`;
const Place = styled(TabPanel)`
  min-height: 0;
  overflow-y: auto;
  outline: none;
`;
