export { Accounts } from './accounts.ts';
export { Asking, type Asker } from './asking.ts';
export { DeedBook } from './deeds.ts';
export { guard, sessions, type Guard } from './door.ts';
export { isProgram, MIN_TOKEN } from './programs.ts';
export { openHere, peopleRoutes } from './routes.ts';
