import type { Work } from '../work';
import { RoomPanel } from './room-panel';

/** Room for all claims of a mix at once. */
export const wholeRoomWork: Work = { panel: { id: 'room', name: 'Room', digit: 0, Panel: RoomPanel } };
