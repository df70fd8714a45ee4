import { latePanel } from '../../kit/late/late';
import type { Work } from '../work';

const RoomPanel = latePanel(async () => (await import('./room-panel')).RoomPanel);

/** Room for all claims of a mix at once. */
export const wholeRoomWork: Work = { panel: { id: 'room', name: 'Room', digit: 0, Panel: RoomPanel } };
