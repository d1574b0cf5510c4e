import { createContext, useContext, type RefObject } from 'react';
import { useStore } from 'zustand';
import { useShallow } from 'zustand/react/shallow';
import { createStore, type StoreApi } from 'zustand/vanilla';
import type { CutOut, Patch, Setup } from '@plinket/core';
import type { DocumentState, DocumentStore } from '../document/store.ts';
import type { StageEngine } from '../engine/bridge.ts';
import type { Episodes } from './episodes.ts';
import type { Asked, FaceReport, Frame, MotionReport, SeenReport, SetReport, Spot, Thumb } from '../engine/messages.ts';

export type SheetName = 'light' | 'camera' | 'look' | 'stage' | 'surfaces' | 'character';

/** What is only about looking and pointing: never saved, never undone. */
/** Two ways of what is shown, to be looked at one after the other: which of them is there, and what leads to each from the other. */
export interface Sides {
  words: readonly [string, string];
  at: 0 | 1;
  to: readonly [Patch, Patch];
}

export interface ViewState {
  /** The light in hand, and others that are changed together with it. */
  selected: string | undefined;
  also: readonly string[];
  /** The flag in hand. */
  flag: string | undefined;
  solo: readonly string[];
  /** The lights in hand three stops up, as long as a key is held. */
  exaggerated: boolean;
  /** Which leaf of the light's sheet is open. */
  leaf: 'place' | 'colour' | 'shaping' | 'shares' | 'reach' | 'notes';
  /** Groups of lights that are folded up. */
  folded: readonly string[];
  /** The shelf of lights to add. */
  shelf: boolean;
  mode: 'light' | 'share' | 'tones' | 'alpha' | 'openness';
  /** A later frame of the shot that the picture is of, and what makes it of a setup; nothing: the first, which the setup says. */
  later: { frame: number; of(setup: Setup): Setup } | undefined;
  /** Everything in grey clay. */
  clay: boolean;
  /** Where the picture is divided between the last proof (left) and now, 0…1; nothing: not at all. */
  wipe: number | undefined;
  /** Lines over the picture that help to frame. */
  guides: 'none' | 'thirds' | 'centre' | 'safe';
  /** Another lens keeps the figure as large: the camera moves. */
  keepSize: boolean;
  /** What the next click on the picture is for. */
  picking: 'focus' | 'aim' | 'ask' | 'highlight' | 'shadow' | 'rim' | undefined;
  /** What lies over the lower part: the table of what every light reaches, the kits, the setup's history, the shot's departures. */
  panel: 'reach' | 'kits' | 'history' | 'shot' | undefined;
  /** The object whose lights are switched, and where in the picture it was met. */
  met: { at: Spot; object: string } | undefined;
  /** Points that were clicked or drawn for it so far. */
  spots: readonly Spot[];
  /** What was asked at a point of the picture. */
  asked: { at: Spot; what: Asked } | undefined;
  /** Places of the face that are outlined in the picture, and of the picture itself. */
  pointed: readonly number[] | undefined;
  dots: readonly Spot[] | undefined;
  /** What a placing did, while it is shown and not yet kept. */
  preview: { gesture: string; text: string; reached: boolean; sides?: Sides | undefined } | undefined;
  /** The character in hand, and the one whose landmarks are being marked. */
  subject: string | undefined;
  marking: string | undefined;
  afar: boolean;
  /** How much more than all PLAN and SIDE show: 1 fits the set. */
  zoom: { plan: number; side: number };
  /** Something is under the hand: the room stays as it is until it is let go. */
  dragging: boolean;
  /** The set view takes the picture's place; the picture stays, small. */
  set: boolean;
  /** The light that the picture is seen from, instead of the camera. */
  along: string | undefined;
  sheet: SheetName;
  /** Which leaf of the stage's sheet is open. */
  stageLeaf: 'set' | 'catcher';
  help: boolean;
  /** Which stop of the tour is shown. */
  tour: number | undefined;
  commands: boolean;
  /** The last proof lies over the picture while Space is held. */
  showProof: boolean;
  frame: Omit<Frame, 'rgba'> | undefined;
  thumbs: Thumb[];
  /** What the face meter read last. */
  reading: FaceReport | undefined;
  /** What was read of the motion. */
  motion: MotionReport | undefined;
  /** The lights that it was read by. */
  motionBy: Setup['lights'] | undefined;
  /** What the picture showed of the face when it was measured last. */
  seen: SeenReport | undefined;
  /** What is to be said about the set in it. */
  setSeen: SetReport | undefined;
  engineState: 'loading' | 'building' | 'tracing' | 'finished';
  failure: string | undefined;
}

/** A fresh view; the first light is in hand. */
export const createView = (selected?: string): StoreApi<ViewState> =>
  createStore<ViewState>(() => ({
    selected,
    also: [],
    flag: undefined,
    solo: [],
    exaggerated: false,
    leaf: 'place',
    folded: [],
    shelf: false,
    mode: 'light',
    later: undefined,
    clay: false,
    wipe: undefined,
    guides: 'none',
    keepSize: false,
    picking: undefined,
    panel: undefined,
    met: undefined,
    spots: [],
    asked: undefined,
    pointed: undefined,
    dots: undefined,
    preview: undefined,
    subject: undefined,
    marking: undefined,
    afar: false,
    zoom: { plan: 1, side: 1 },
    dragging: false,
    set: false,
    along: undefined,
    sheet: 'light',
    stageLeaf: 'set',
    help: false,
    tour: undefined,
    commands: false,
    showProof: false,
    frame: undefined,
    thumbs: [],
    reading: undefined,
    seen: undefined,
    setSeen: undefined,
    motion: undefined,
    motionBy: undefined,
    engineState: 'loading',
    failure: undefined,
  }));

export interface Stage {
  doc: DocumentStore;
  view: StoreApi<ViewState>;
  engine: StageEngine;
  /** Where the traced picture is painted. */
  canvas: RefObject<HTMLCanvasElement | null>;
  keepProof(): void;
  downloadPng(): void;
  /** Gives a file to the browser. */
  save(file: Blob, name: string): void;
  /** The figure, the shadows on catchers, or both, with alpha. */
  downloadCutOut(cut: CutOut): void;
  /** Every share and all together in one picture. */
  downloadContactSheet(): void;
  /** PLAN and SIDE to scale with every light's numbers, one page. */
  lightingPlan(kind: 'pdf' | 'svg'): void;
  /** Selects a light; with `more` it joins those that are in hand or leaves them. */
  select(id: string | undefined, more?: boolean): void;
  /** Changes the first light in hand, and the others along with it (see `togetherPatch`); with a gesture that `setsAlike`, all to the same. */
  changeLights(change: Patch, gesture?: string): void;
  /** Names gestures that have no end of their own. */
  episodes: Episodes;
  chooseFile(): void;
}

export const StageContext = createContext<Stage | undefined>(undefined);

export function useStage(): Stage {
  const stage = useContext(StageContext);
  if (!stage) throw new Error('Outside of the Stage.');
  return stage;
}
export const useDoc = <T>(select: (s: DocumentState) => T): T => useStore(useStage().doc, select);
export const useView = <T>(select: (s: ViewState) => T): T => useStore(useStage().view, select);

/** Several things of the view at once; only a change of one of them counts. */
export function useViewOf<K extends keyof ViewState>(...keys: K[]): Pick<ViewState, K> {
  return useStore(
    useStage().view,
    useShallow((s: ViewState) => Object.fromEntries(keys.map((k) => [k, s[k]])) as Pick<ViewState, K>),
  );
}

/** Opens a panel instead of another, or shuts it. */
export const openOrShut =
  (panel: NonNullable<ViewState['panel']>) =>
  (v: ViewState): Pick<ViewState, 'panel'> => ({ panel: v.panel === panel ? undefined : panel });

/** All lights in hand, the selected one first. */
export const inHand = ({ selected, also }: Pick<ViewState, 'selected' | 'also'>): string[] =>
  selected === undefined ? [] : [selected, ...also];
