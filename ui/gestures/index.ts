export { followDrag, type DragMove } from './drag';
export { dragEdit } from './edit-drag';
export { arrowDirection, stepDb, stepHz, stepQ, stepSize, tidyDb, tidyHz, tidyQ, type StepSize } from './steps';
