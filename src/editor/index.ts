export { fillToRepeat } from './session/earlier-fill';
export { newId } from './session/new-mend';
export { takesFrom } from './session/painting';
export { Session } from './session/session';
export * from './session/state';
export { View } from './session/view';
export * from './shelf/take-in';
