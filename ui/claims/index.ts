export { ClaimsSection, proposeClaims } from './claims-section';
export { LaneClaims } from './lane-claims';
