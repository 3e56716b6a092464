export * from './evaluator';
export * from './lru-cache';
export type { DraftCoverage } from './plan';
export * from './render';
