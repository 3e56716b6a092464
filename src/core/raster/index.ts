export * from './float-image';
export * from './mip';
export * from './raster';
export * from './rect';
export * from './resample';
export * from './tiles';
