'use client';
import { parseFigure, within, writeFigure } from '@/core/formats';
import { noteSeconds, quarterAt } from '@/core/grid';
import type { ProcessorSettings } from '@/core/processors';
import { FIGURES, type Figure } from '@/core/song';
import { FigureRow } from '../../kit/controls/figure-row';
import { ValueField } from '../../kit/controls/value-field';
import { stepFigure } from '../../kit/gestures/steps';
import { useDesk, type Desk } from '../../window/desk/desk';
import { documentOf } from '../../window/song/live-song';
import { positionSeconds } from '../../window/sound/audio-state';
import { FigureMark } from '../passages/figure-mark';
import { changeProcessor, changeProcessorByKey } from '../../window/song/processor-edits';

export const figuresOf = (processor: ProcessorSettings): Record<string, Figure> => FIGURES[processor.kind];
export const valueOf = (processor: ProcessorSettings, field: string): number =>
  (processor as unknown as Record<string, number>)[field];
export const changeOf = (field: string, value: unknown) => ({ [field]: value }) as Partial<ProcessorSettings>;

/** How a figure may be written, for the error. */
const exampleOf = ({ min, max, unit }: Figure) => `${min} to ${max}${unit && ` ${unit}`}`;

/** A note value by the tempo at the playhead, ms; null where there is none, or no tempo. */
function noteMs(desk: Desk, text: string): number | null {
  const { grid } = documentOf(desk);
  const seconds = grid && noteSeconds(text, grid, quarterAt(grid, positionSeconds(desk)));
  return seconds && Math.round(1e5 * seconds) / 100;
}

interface FigureFieldProps {
  stripId: string;
  processor: ProcessorSettings;
  field: string;
  remark?: string;
}

/** One figure of a processor: typed, or stepped by keys. */
export function FigureField({ stripId, processor, field, remark }: FigureFieldProps) {
  const desk = useDesk();
  const figure = figuresOf(processor)[field];
  const value = valueOf(processor, field);
  const isNoteLength = processor.kind === 'echo' && field === 'timeMs';
  return (
    <FigureRow>
      <span>
        {figure.label}
        <FigureMark stripId={stripId} of="processor" partId={processor.id} field={field} />
      </span>
      <ValueField
        label={figure.label}
        shown={writeFigure(value, figure)}
        parse={(text) => {
          const ms = isNoteLength ? noteMs(desk, text) : null;
          return ms ? within(ms, figure) : parseFigure(text, figure);
        }}
        example={isNoteLength ? `${exampleOf(figure)}; 1/8 or 1/4. by the tempo` : exampleOf(figure)}
        onCommit={(typed) => changeProcessor(desk, stripId, processor, changeOf(field, typed), figure.label)}
        onStep={(direction, size) =>
          changeProcessorByKey(
            desk,
            stripId,
            processor,
            changeOf(field, stepFigure(value, direction, size, figure)),
            figure.label,
          )
        }
      />
      <i>{remark}</i>
    </FigureRow>
  );
}
