export * from './membrane';
