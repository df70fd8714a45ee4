'use client';
import { Tab, TabList, TabPanel, Tabs } from 'react-aria-components';
import styled from 'styled-components';
import { ComparePanel } from '../compare';
import { CompanyPanel } from '../company';
import { EdgePanel } from '../edges';
import { ImagePanel } from '../image';
import { LandmarksPanel } from '../landmarks';
import { OverlapsPanel } from '../overlaps';
import { ReusePanel } from '../reuse';
import { StripPanel } from '../strip-panel';
import { SuspectsPanel } from '../suspects';
import { SIDES, useSide, type SideTab } from './side-store';

const PANELS: Record<SideTab, () => React.ReactNode> = {
  track: () => <StripPanel />,
  overlaps: () => <OverlapsPanel />,
  edge: () => <EdgePanel />,
  suspects: () => <SuspectsPanel />,
  image: () => <ImagePanel />,
  compare: () => <ComparePanel />,
  reuse: () => <ReusePanel />,
  company: () => <CompanyPanel />,
  landmarks: () => <LandmarksPanel />,
};

/** Beside the Register: one thing at a time. */
export function Side() {
  const tab = useSide((side) => side.tab);
  const show = useSide((side) => side.show);
  return (
    <Frame selectedKey={tab} onSelectionChange={(key) => show(key as SideTab)}>
      <List aria-label="Side">
        {SIDES.map(({ id, name }) => (
          <One key={id} id={id}>
            {name}
          </One>
        ))}
      </List>
      {SIDES.map(({ id }) => (
        <Panel key={id} id={id}>
          {PANELS[id]()}
        </Panel>
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
  gap: 0 12px;
  padding: 2px 12px 0 16px;
  border-bottom: 1px solid var(--grid);
`;
const One = styled(Tab)`
  padding: 3px 0 2px;
  border-bottom: 2px solid transparent;
  color: var(--soft);
  font-size: 12.5px;
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
const Panel = styled(TabPanel)`
  min-height: 0;
  overflow-y: auto;
  outline: none;
`;
