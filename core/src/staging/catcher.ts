// What catches shadows, and the camera that puts feet on the ground of a picture.
import { DEGREE, round } from '../math/index.ts';
import { CATCHER_DEFAULTS, hasCatcher, isCatcher, partRef, refCovers, type ObjectRef, type Patch, type Setup } from '../setup/index.ts';

/** A patch of the catcher; the first one brings the rest along. */
export const catcherPatch = ({ catcher }: Setup, change: Patch): Patch => ({
  catcher: { ...(catcher ? {} : (CATCHER_DEFAULTS as unknown as Patch)), ...change },
});

/** Has an object catch shadows, or be seen again. What was named within it goes. */
export function catchPatch(setup: Setup, ref: ObjectRef, on: boolean): Patch {
  const objects = setup.catcher?.objects ?? {};
  const within = Object.keys(objects).filter((r) => refCovers(ref, r));
  return catcherPatch(setup, { objects: { ...Object.fromEntries(within.map((r) => [r, null])), ...(on ? { [ref]: true } : {}) } });
}

/** No floor, only its shadow: a bare floor that catches, over squares where nothing was laid behind. */
export const shadowStagePatch = (setup: Setup): Patch => ({
  stage: {
    kind: 'floor',
    front: Math.max(setup.stage.front, 6),
    back: Math.max(setup.stage.back, 6),
    width: Math.max(setup.stage.width, 12),
  },
  ...(setup.plate.kind === 'none' ? { plate: { kind: 'checker', from: [0.5, 0.5, 0.5], to: [0.28, 0.28, 0.28] } } : {}),
  ...catchPatch(setup, 'stage', true),
});

/** What is odd about a catcher, in words; nothing where all is well. */
export function catcherOddities(setup: Setup, objects: readonly ObjectRef[]): string[] {
  const { catcher } = setup;
  if (!hasCatcher(setup) || !catcher) return [];
  const said: string[] = [];
  const caught = (ref: ObjectRef) => isCatcher(catcher, ref);
  const here = objects.filter(caught);
  if (here.length === 0) said.push('Nothing that catches is here.');
  if (objects.length > 0 && here.length === objects.length) said.push('Everything catches: there is nothing left to be seen.');
  const characters = objects.filter((o) => o.startsWith('subjects/'));
  if (characters.length > 0 && characters.every(caught)) said.push('The characters show only the shadows on them.');
  if (Object.values(setup.lights.items).some((l) => l.on && l.kind === 'object' && caught(l.object)))
    said.push('A catcher glows: what it throws on others stays, its own glow is not shown.');
  const glowing = Object.entries(setup.subjects.items).some(([id, { materials }]) =>
    Object.entries(materials).some(([part, { emission = 0 }]) => emission > 0 && caught(partRef(id, part))),
  );
  if (glowing) said.push('A catcher gives light of its own: that is not shown.');
  const lights = Object.entries(setup.lights.items).filter(([id, l]) => l.on && !catcher.without[id]);
  if (lights.length === 0) said.push('No light that is on may leave a shadow.');
  return said;
}

/** What is known of a picture that a figure shall stand in: all by height in the picture, 0 (top) … 1. */
export interface PlateView {
  /** Where the horizon lies. */
  horizon: number;
  /** Where something upright that stands on the ground begins and ends, and how tall it is, metres. */
  foot: number;
  top: number;
  length: number;
}

/**
 * The camera of a picture of level ground, from its horizon, its focal length (the camera's own here) and one known upright length. In a pinhole whose
 * middle ray falls by the pitch p, the horizon lies tan p above the middle; of something that stands upright at one distance, the part below the
 * horizon is to all of it as the camera's height is to its length (common practice in perspective drawing; exact for a level camera, and done here by
 * the rays themselves for any pitch). The figure stays where it is, the camera keeps its distance over the ground.
 * @throws Error where the lines say nothing
 */
export function plateCameraPatch(setup: Setup, view: PlateView): Patch {
  const { horizon, foot, top, length } = view;
  if (!(foot > horizon)) throw new Error('The foot must lie below the horizon.');
  if (!(foot > top)) throw new Error('The foot must lie below the top.');
  if (!(length > 0)) throw new Error('The length must be more than nothing.');
  const { camera, stage } = setup;
  const half = camera.sensor / 2 / camera.focal;
  // angle over the horizontal of a height in the picture
  const off = (y: number) => Math.atan((1 - 2 * y) * half);
  const pitch = -off(horizon);
  const up = (y: number) => pitch + off(y);
  const share = Math.tan(-up(foot)) / (Math.tan(-up(foot)) + Math.tan(up(top)));
  const height = share * length;
  const [x, , z] = camera.position,
    [tx, , tz] = camera.target;
  const far = Math.max(0.1, Math.hypot(tx - x, tz - z));
  const y = round(stage.floor + height, 4);
  return { camera: { position: [x, y, z], target: [tx, round(y + Math.tan(pitch) * far, 4), tz], roll: 0 } };
}

/** The horizon of a camera by height in its picture, 0 … 1 where it is seen. */
export function horizonOf({ camera }: Setup): number {
  const [x, y, z] = camera.position,
    [tx, ty, tz] = camera.target;
  const pitch = Math.atan2(ty - y, Math.hypot(tx - x, tz - z));
  return Math.abs(pitch) > 89 * DEGREE ? NaN : (1 + (Math.tan(pitch) * camera.focal * 2) / camera.sensor) / 2;
}
