import type { Setup } from '@plinket/core';
import type { GradedPicture, Shown } from './grade.ts';

export type ToGrade =
  | { type: 'url'; film: string }
  | { type: 'open'; number: number; films: string | Uint8Array<ArrayBuffer>; setup?: Setup; shown: Shown }
  | { type: 'show'; number: number; shown: Shown };
export type FromGrade =
  | { type: 'opened'; number: number; setup: Setup }
  | { type: 'picture'; number: number; picture: GradedPicture }
  | { type: 'failed'; number: number; message: string };
