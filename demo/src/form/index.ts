export { generateKeeper } from './keeper.ts';
export { writeCharacter } from '../glb.ts';
