export { Lab, type LabOptions } from './lab.ts';
export { FrameQueue } from './queue.ts';
