export { analogMagnitudeDb, type AnalogSection } from './analog';
export { bandEdgesHz, bandwidthFromQ, qFromBandwidth } from './bell';
export {
  AVAILABLE_TYPES,
  designBand,
  designEqualizer,
  legalOrder,
  ORDERS,
  prototype,
  runningFrequencyHz,
  whyUnavailable,
  type EqualizerSettings,
} from './design';
export { groupDelayMs, logSpacedHz, magnitudeDb, magnitudesDb, phaseDegrees } from './response';
export { type Section } from './section';
