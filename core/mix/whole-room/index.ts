export {
  planRoom,
  ROOM_LIMITS,
  type RoomLack,
  type RoomLimits,
  type RoomMove,
  type RoomMoveKind,
  type RoomPlan,
  type RoomOptions,
} from './plan';
export { type RoomTrack } from './room-state';
