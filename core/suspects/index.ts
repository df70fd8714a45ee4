export * from './suspect';
