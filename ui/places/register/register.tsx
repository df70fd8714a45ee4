'use client';
import { useRef, useState } from 'react';
import styled from 'styled-components';
import { useSize } from '../../kit/axis/use-size';
import { useSelection } from '../../window/song/selection';
import { useWholeRegister } from '../../window/view/whole-register';
import { useRows } from '../../work/tracks/rows';
import { Lane } from './lane';
import { RegisterCanvas } from './register-canvas';
import { OVERVIEW_WIDTH, RegisterOverview } from './register-overview';

const LOWEST_LANE = 25;
/** Where the whole Register is shown: names can just be read, and a lane can just be pressed. */
const LOWEST_WHOLE_LANE = 8;
const HIGHEST_LANE = 110;
/** So many lanes out of sight have their controls all the same; those farther away are names alone. */
const NEAR_LANES = 8;

/** A lane for each track under its group, then the master, all on the one frequency axis: one picture, and what can be taken hold of above it. */
export function Register() {
  const box = useRef<HTMLDivElement>(null);
  const lanes = useRef<HTMLDivElement>(null);
  const { height } = useSize(box);
  const rows = useRows();
  // The lanes are one stop of Tab: the chosen one, or the first where the chosen one is folded away.
  const reachedId = useSelection(({ stripId }) => (rows.find(({ id }) => id === stripId) ?? rows[0])?.id);
  const isWhole = useWholeRegister((view) => view.isWhole);
  const lowest = isWhole ? LOWEST_WHOLE_LANE : LOWEST_LANE;
  const laneHeight = Math.min(HIGHEST_LANE, Math.max(lowest, Math.floor(height / rows.length)));
  const [scrolledTo, setScrolledTo] = useState(0);
  const inSight = Math.ceil(height / laneHeight);
  const isNear = (row: number) => row >= scrolledTo - NEAR_LANES && row < scrolledTo + inSight + 2 * NEAR_LANES;
  const isCut = rows.length * laneHeight > height + 1;
  return (
    <Frame ref={box}>
      {height > 0 && isCut && <RegisterOverview rows={rows} laneHeight={laneHeight} height={height} scroller={lanes} />}
      {height > 0 && <RegisterCanvas rows={rows} laneHeight={laneHeight} height={height} scroller={lanes} />}
      <Lanes
        ref={lanes}
        role="group"
        aria-label="Register"
        style={{ left: isCut ? OVERVIEW_WIDTH : 0 }}
        onScroll={({ currentTarget }) => {
          const first = Math.floor(currentTarget.scrollTop / laneHeight);
          setScrolledTo(first - (first % NEAR_LANES));
        }}
      >
        {height > 0 &&
          rows.map((row, i) => (
            <Lane
              key={row.id}
              {...row}
              height={laneHeight}
              isReached={row.id === reachedId}
              isNear={isNear(i) || row.id === reachedId}
            />
          ))}
      </Lanes>
    </Frame>
  );
}

const Frame = styled.div`
  position: relative;
  min-height: 0;
`;
/** Where not all lanes are in sight, the overview stands in for a scroll bar. */
const Lanes = styled.div`
  position: absolute;
  inset: 0;
  overflow: hidden auto;
  scrollbar-width: none;
`;
