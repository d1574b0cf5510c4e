export * from './rank.ts';
export { LIMITS, limitsTimes, type Limits } from './limits.ts';
export {
  eyePart,
  objectName,
  objectRef,
  type CalledObjects,
  partRef,
  propRef,
  readRef,
  refCovers,
  STAGE_PIECES,
  type ObjectRef,
} from './object-ref.ts';
export * from './reach.ts';
export * from './catcher.ts';
export * from './schema.ts';
export * from './sequence.ts';
export * from './kit.ts';
export * from './proof.ts';
export * from './tie.ts';
export * from './turntable.ts';
export * from './pictured.ts';
export * from './parse.ts';
export * from './landmark-names.ts';
export * from './landmarks.ts';
export * from './light-schema.ts';
export * from './lights.ts';
export * from './output.ts';
export * from './colour.ts';
export * from './twins.ts';
export * from './patch.ts';
export * from './describe.ts';
export * from './place.ts';
export * from './ground.ts';
export * from './balance.ts';
export * from './layers.ts';
export * from './migrate.ts';
export { choicePatch, conflictsOf, valueAt, type Conflict } from './conflicts.ts';
export { rebased } from './rebase.ts';
export * from './materials.ts';
export { emptySetup } from './empty.ts';
export { id as idSchema } from './values.ts';
