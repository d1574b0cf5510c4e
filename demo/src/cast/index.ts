export { actorOf, CAST, type Actor, type Cut } from './cast.ts';
export { generateCharacter, type Character, type Skinned } from './character.ts';
export { writeCharacter } from '../file/glb.ts';
