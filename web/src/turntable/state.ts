// What the turntable's page knows: frames that are traced, what was measured and read, and where it plays.
import { secondsWords } from '../parts/amounts.ts';
import { framesOf, turnedAt, type Setup, type Turntable } from '@plinket/core';
import { createContext, useContext } from 'react';
import { useStore } from 'zustand';
import { createStore, type StoreApi } from 'zustand/vanilla';
import type { DocumentState, DocumentStore } from '../document/store.ts';
import type { TurnEngine } from '../engine/turn-bridge.ts';
import type { TurnFrame, TurnMeasure, TurnMoment } from '../engine/turn-messages.ts';

export interface TurnState {
  /** Frames of the play-through, by their number. */
  frames: ReadonlyMap<number, TurnFrame>;
  /** Seconds from the question to the first whole round of it. */
  tookFirst: number | undefined;
  /** Milliseconds that a sample of a pixel took when frames were last traced as they shall be; nothing before. */
  perSample: number | undefined;
  /** What is traced now, for the user to see and to stop; how much of how much. */
  work: { what: string; done: number; of: number; stop(): void } | undefined;
  /** The frame that is shown, from 1. */
  at: number;
  playing: boolean;
  measure: TurnMeasure | undefined;
  moments: readonly TurnMoment[];
  /** Why the face was not read. */
  unread: string | undefined;
  /** Eight angles, better than the play-through. */
  stills: ReadonlyMap<number, TurnFrame>;
  failed: string | undefined;
}

export const createTurn = (): StoreApi<TurnState> =>
  createStore<TurnState>(() => ({
    frames: new Map(),
    tookFirst: undefined,
    perSample: undefined,
    work: undefined,
    at: 1,
    playing: false,
    measure: undefined,
    moments: [],
    unread: undefined,
    stills: new Map(),
    failed: undefined,
  }));

export interface Room {
  doc: DocumentStore;
  engine: TurnEngine;
  turn: StoreApi<TurnState>;
}
export const RoomContext = createContext<Room | undefined>(undefined);

export function useRoom(): Room {
  const room = useContext(RoomContext);
  if (!room) throw new Error('Outside of the turntable.');
  return room;
}
export const useDoc = <T>(select: (d: DocumentState) => T): T => useStore(useRoom().doc, select);
export const useTurn = <T>(select: (t: TurnState) => T): T => useStore(useRoom().turn, select);

/** The traced frame that is nearest to one, going round. */
export function nearestFrame<T>(frames: ReadonlyMap<number, T>, frame: number, all: number): T | undefined {
  for (let away = 0; away <= all / 2; away++)
    for (const n of [frame - away, frame + away]) {
      const found = frames.get(((((n - 1) % all) + all) % all) + 1);
      if (found) return found;
    }
  return undefined;
}

/** Degrees that what turns has turned by at a frame. */
export function angleAt(plan: Turntable, frame: number): number {
  const { figure, camera, dome } = turnedAt(plan, [0, 0], frame);
  return plan.turning === 'dome' || (plan.turning === 'figure then dome' && frame - plan.before > plan.frames) ? dome : figure || camera;
}

/** A picture of so many pixels in the setup's frame. */
export function sizeFor({ camera }: Pick<Setup, 'camera'>, pixels: number): { width: number; height: number } {
  const height = Math.max(8, Math.round(Math.sqrt(pixels / camera.aspect)));
  return { width: Math.max(8, Math.round(height * camera.aspect)), height };
}

/** The size of a movie by its height, with even sides. */
export function movieSize({ camera }: Pick<Setup, 'camera'>, height: number): { width: number; height: number } {
  const even = (v: number) => Math.max(2, 2 * Math.round(v / 2));
  return { width: even(height * camera.aspect), height: even(height) };
}

/** A frame as a data URL of a PNG. */
export function drawn({ width, height, rgba }: TurnFrame): string {
  const canvas = Object.assign(document.createElement('canvas'), { width, height });
  canvas.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(rgba), width, height), 0, 0);
  return canvas.toDataURL('image/png');
}

/** Bytes of a data URL’s content a pixel: base64 writes three in four letters. */
export const bytesAPixel = (url: string, { width, height }: Pick<TurnFrame, 'width' | 'height'>): number =>
  ((url.length - url.indexOf(',') - 1) * 0.75) / (width * height);

/** What a plan comes to: “300 frames, 12 s”. */
export const planWords = (plan: Turntable): string => `${framesOf(plan)} frames, ${secondsWords(framesOf(plan) / plan.fps)}`;
