export { Button, LaneToggle, TextButton, ToggleButton } from './button';
export { Choice } from './choice';
export { CommittedText } from './committed-text';
export { Dialog, DialogActions } from './dialog';
export { FigureRow } from './figure-row';
export { KeyName, Menu, MenuItem, MenuPanel } from './menu';
export { Progress } from './progress';
export { TextField } from './text-field';
export { TextValue } from './text-value';
