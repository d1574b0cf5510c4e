export { Unreadable, type ReaderKind, type Reports } from './kinds.ts';
export { Readers, type ReaderLimits } from './readers.ts';
