export * from './digest';
export * from './job-file';
export * from './orientation';
export * from './png';
