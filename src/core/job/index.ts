export * from './commands';
export * from './find';
export * from './history';
export * from './schema';
export * from './types';
