export * from './commands';
export * from './find';
export * from './history';
export { checkJob, checkWith } from './schema';
export * from './sheet';
export * from './types';
