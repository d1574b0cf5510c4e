// What is known of a face: the frame of its head, its landmarks.
export * from './head.ts';
export * from './landmarks.ts';
