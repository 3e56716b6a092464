export * from './homography';
