export { AxisProvider, useAxis } from './axis-context';
export { hatch, useCanvas, type Draw } from './canvas';
export { CanvasField } from './canvas-field';
export { drawFrequencyGrid } from './grid';
export { liveLine, ridgePaths, ridgeTopDb, type PathSink, type RidgeShape } from './levels';
export {
  AXIS_HIGH_HZ,
  AXIS_LOW_HZ,
  AXIS_TICKS,
  frequencyScale,
  NOTE_TICKS,
  REGIONS,
  type FrequencyScale,
} from './scale';
export { useSize } from './use-size';
