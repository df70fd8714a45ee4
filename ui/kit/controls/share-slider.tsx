'use client';
import { Label, Slider, SliderOutput, SliderThumb, SliderTrack } from 'react-aria-components';
import styled from 'styled-components';

interface ShareSliderProps {
  label: string;
  /** 0 to 1. */
  value: number;
  onChange: (value: number) => void;
}

/** How much of something: 0 to 100 %. */
export function ShareSlider({ label, value, onChange }: ShareSliderProps) {
  return (
    <Frame value={Math.round(value * 100)} maxValue={100} onChange={(percent) => onChange((percent as number) / 100)}>
      <Label>{label}</Label>
      <SliderOutput>{({ state }) => `${state.values[0]} %`}</SliderOutput>
      <Track>
        <Thumb aria-label={label} />
      </Track>
    </Frame>
  );
}

const Frame = styled(Slider)`
  display: grid;
  grid-template-columns: 1fr auto;
  margin: 6px 0;
  label {
    color: var(--soft);
  }
  output {
    font-weight: 600;
  }
`;
const Track = styled(SliderTrack)`
  grid-column: 1 / -1;
  height: 22px;
  background: linear-gradient(var(--rule), var(--rule)) center / 100% 2px no-repeat;
`;
const Thumb = styled(SliderThumb)`
  top: 50%;
  width: 10px;
  height: 18px;
  border: 1.5px solid var(--ink);
  border-radius: 2px;
  background: var(--field);
  &[data-focus-visible] {
    outline: 2px solid var(--claim);
    outline-offset: 2px;
  }
`;
