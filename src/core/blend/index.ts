export * from './composite';
export * from './modes';
