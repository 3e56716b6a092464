export * from './float-image';
export * from './gaussian';
export * from './mip';
export * from './raster';
export * from './rect';
export * from './resample';
export * from './tiles';
