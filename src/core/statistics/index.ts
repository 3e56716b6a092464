export * from './invert-symmetric';
export * from './select';
