export * from './homography';
export * from './rail';
