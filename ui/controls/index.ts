export { Button, LaneToggle, TextButton, ToggleButton } from './button';
export { Choice } from './choice';
export { Dialog, DialogActions } from './dialog';
export { KeyName, Menu, MenuItem, MenuPanel, MenuRule } from './menu';
export { Progress } from './progress';
export { TextValue } from './text-value';
