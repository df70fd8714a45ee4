export { followDrag, isDragging, type DragMove } from './drag';
export { dragEdit } from './edit-drag';
export {
  arrowDirection,
  draggedOrder,
  stepDb,
  stepHz,
  stepOrder,
  stepQ,
  stepSize,
  tidyDb,
  tidyHz,
  tidyQ,
  type StepSize,
} from './steps';
