'use client';
import styled from 'styled-components';
import { bandEdgesHz } from '@/core/filters';
import { parseFigure, writeFigure } from '@/core/formats';
import {
  canGiveWay,
  GIVES_WAY,
  OWN_KEY,
  type Band,
  type Figure,
  type GivesWay,
  type GivesWayChanges,
  type Key,
} from '@/core/song';
import { ToggleButton } from '../../kit/controls/button';
import { FigureRow } from '../../kit/controls/figure-row';
import { ValueField } from '../../kit/controls/value-field';
import { stepFigure, tidyHz } from '../../kit/gestures/steps';
import { useDesk } from '../../window/desk/desk';
import { changeBand, changeBandByKey } from '../../window/song/band-edits';
import { KeyFields } from '../../work/chain/key-fields';
import { FigureMark } from '../../work/passages/figure-mark';

/** The range that a band acts on: what it listens to at first. */
function ownRange({ type, frequencyHz, q }: Band): Omit<Key, 'stripId'> {
  if (type === 'low-shelf') return { lowHz: null, highHz: frequencyHz };
  if (type === 'high-shelf') return { lowHz: frequencyHz, highHz: null };
  const { lowHz, highHz } = bandEdgesHz(frequencyHz, q);
  return { lowHz: tidyHz(lowHz), highHz: tidyHz(highHz) };
}

/** A band that starts to give way: to its own range. */
const startsWith = (band: Band): GivesWay => ({
  ...(Object.fromEntries(Object.entries(GIVES_WAY).map(([field, { start }]) => [field, start])) as Omit<
    GivesWay,
    'key'
  >),
  key: { stripId: OWN_KEY, ...ownRange(band) },
});

/** How the chosen band moves with a level. */
export function GivingSection({ stripId, band }: { stripId: string; band: Band }) {
  const desk = useDesk();
  if (!canGiveWay(band.type)) return null;
  const { givesWay } = band;
  const set = (changes: GivesWayChanges, label: string) =>
    changeBand(desk, stripId, band.id, { givesWay: changes }, label);
  return (
    <>
      <FigureRow>
        <span>Moves</span>
        <ToggleButton
          isSelected={givesWay !== null}
          data-hint="Its gain moves with a level: of its own range, or of another track"
          onChange={(isOn) =>
            changeBand(desk, stripId, band.id, { givesWay: isOn ? startsWith(band) : null }, 'A band that gives way')
          }
        >
          {givesWay ? 'Gives way' : 'Stays'}
        </ToggleButton>
      </FigureRow>
      {givesWay && (
        <Way>
          {Object.entries<Figure>(GIVES_WAY).map(([field, figure]) => {
            const value = givesWay[field as keyof typeof GIVES_WAY];
            return (
              <FigureRow key={field}>
                <span>
                  {figure.label}
                  <FigureMark stripId={stripId} of="band" partId={band.id} field={`givesWay.${field}`} />
                </span>
                <ValueField
                  label={`${figure.label} of the way`}
                  shown={writeFigure(value, figure)}
                  parse={(text) => parseFigure(text, figure)}
                  example={`${figure.min} to ${figure.max} ${figure.unit}`}
                  onCommit={(typed) => set({ [field]: typed }, figure.label)}
                  onStep={(direction, size) =>
                    changeBandByKey(
                      desk,
                      stripId,
                      band.id,
                      { givesWay: { [field]: stepFigure(value, direction, size, figure) } },
                      figure.label,
                    )
                  }
                />
              </FigureRow>
            );
          })}
          <KeyFields
            stripId={stripId}
            listenerId={band.id}
            value={givesWay.key}
            onChange={(key, label) => set({ key }, label)}
          />
        </Way>
      )}
    </>
  );
}

const Way = styled.div`
  margin: 2px 0 6px;
  padding-left: 8px;
  border-left: 2px solid var(--grid);
`;
