export type { JobRow } from './database';
export * from './job-store';
