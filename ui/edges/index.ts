export { CleanEndsDialog } from './clean-ends-dialog';
export { useCleaning } from './cleaning-store';
export { EdgePanel } from './edge-panel';
