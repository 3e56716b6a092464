export * from './select';
