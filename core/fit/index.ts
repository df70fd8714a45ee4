export * from './sections';
