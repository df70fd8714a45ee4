export { EyesReport } from './eyes-report';
export { useEyes } from './eyes-store';
