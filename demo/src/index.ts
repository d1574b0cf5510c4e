export { demoSetup } from './setup.ts';
export { keeperFile } from './files.ts';
