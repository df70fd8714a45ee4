export * from './sections';
export * from './impulse';
