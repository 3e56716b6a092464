export * from './found';
export * from './grow/grow';
export * from './pick-colour';
export * from './seen';
export * from './span';
