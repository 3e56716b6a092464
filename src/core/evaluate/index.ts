export * from './evaluator';
export * from './lru-cache';
export * from './render';
