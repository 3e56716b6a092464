export * from './figures';
export * from './source-map';
export * from './statistics';
