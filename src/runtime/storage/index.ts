export type { JobRow } from './database';
export * from './job-lock';
export * from './job-store';
