export { writeExr, type ExrChannel } from './write.ts';
