export { DEMO_SETUPS, demoSetup, goatSetup, lanternSetup, signallerSetup, type DemoSetup, type Kept } from './setups.ts';
export { demoKits, KIT_PICTURES, LIT_PLANS, planOfTurn, RIG_PLANS, type LitPlan, type RigPlan } from './kits.ts';
export { CHARACTER_FILES, keeperFile } from './files.ts';
export { DEMO_PRODUCTION, DEMO_SEQUENCES, type DemoSequence, type DemoShot } from './sequences.ts';
