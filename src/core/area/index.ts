export * from './connected';
export * from './distance';
export * from './mask';
export * from './outline';
export * from './parts';
export * from './rasterise';
export * from './reshape';
export * from './types';
