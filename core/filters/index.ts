export { analogMagnitudeDb, type AnalogSection } from './analog';
export { bandEdgesHz, bandwidthFromQ, qFromBandwidth } from './bell';
export {
  actsOnPath,
  designBand,
  designEqualizer,
  gainSection,
  legalOrder,
  ORDERS,
  prototype,
  type EqualizerSettings,
} from './design';
export { impulseFrames, impulseResponse } from './impulse';
export { solveLinear } from './linear-equations';
export { isBeyond } from './match';
export { designLinearPhase, evenResponseDb, type LinearPhaseDesign } from './linear-phase';
export { groupDelayMs, logSpacedHz, magnitudeDb, magnitudesDb, phaseDegrees, phasesDegrees } from './response';
export { type Section } from './section';
