export { demoSetup, goatSetup, lanternSetup, signallerSetup, type Kept } from './setups.ts';
export { CHARACTER_FILES, keeperFile } from './files.ts';
