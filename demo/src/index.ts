export { DEMO_SETUPS, demoSetup, goatSetup, lanternSetup, signallerSetup, type DemoSetup, type Kept } from './setups.ts';
export { demoKits, RIG_PLANS, type RigPlan } from './kits.ts';
export { CHARACTER_FILES, keeperFile } from './files.ts';
