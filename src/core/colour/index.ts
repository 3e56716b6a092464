export * from './lab';
