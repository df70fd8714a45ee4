export { hatch, useCanvas, type Draw } from './canvas';
export { AXIS_HIGH_HZ, AXIS_LOW_HZ, AXIS_TICKS, frequencyScale, REGIONS, type FrequencyScale } from './scale';
export { useSize } from './use-size';
