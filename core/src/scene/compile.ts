import { cross, DEGREE, normalize, rolled, sub } from '../math/index.ts';
import { isCatcher, type Light, type Setup } from '../setup/index.ts';
import { compileLights, NO_FILES, type LightFiles } from './lights.ts';
import type { AssetSource } from './pieces.ts';
import { compileGeometry } from './geometry.ts';
import { scenePieces } from './pieces.ts';
import { spinsOf, spunCamera, spunLight, type Turned } from './spin.ts';
import type { Scene, SceneCamera } from './types.ts';

/** How a setup is compiled beyond what it says. */
export interface CompileOptions {
  /** Grey clay on everything. */
  clay?: boolean;
  /** What lights name: pictures of domes, profiles, gobos. */
  files?: LightFiles;
  /** How far things have turned about an axis. */
  turned?: Turned;
}

/**
 * Turns a setup into flat arrays and content keys. Pass the last scene to re-use what did not change: its geometry as a
 * whole, or part by part.
 * @throws MissingAssetError when the file of a visible subject or of a light is not at hand.
 */
export function compile(setup: Setup, assets: AssetSource, last?: Scene, options: CompileOptions = {}): Scene {
  const { turned } = options;
  const spins = turned && spinsOf(turned);
  const { pieces, key } = scenePieces(setup, assets, { clay: options.clay ?? false, stage: spins?.stage }, last?.geometry.key);
  const geometry = pieces ? compileGeometry(pieces, key, last?.geometry) : last!.geometry;
  const haze = setup.haze.density > 0 ? setup.haze : undefined;
  const catchers = geometry.objects.filter((o) => isCatcher(setup.catcher, o));
  return {
    geometry,
    camera: spunCamera(compileCamera(setup), spins?.camera),
    ...(haze ? { haze } : {}),
    ...(catchers.length ? { catchers: { objects: catchers, follow: setup.catcher!.bounce || setup.catcher!.mirror } } : {}),
    lights: compileLights(setup, options.files ?? NO_FILES).map((light) =>
      spunLight(light, isAroundAll(setup.lights.items[light.id]!) ? spins?.dome : spins?.lights),
    ),
  };
}

/** What lights from all round, as far away as the sky: it turns with the dome. */
const isAroundAll = ({ kind }: Light): boolean => kind === 'dome' || kind === 'sky' || kind === 'sun';

/** The camera of a setup. */
export function compileCamera(setup: Setup): SceneCamera {
  const { position, target, focal, sensor, roll, aspect, lens } = setup.camera;
  const forward = normalize(sub(target, position), [0, 0, -1]);
  const level = normalize(cross(forward, [0, 1, 0]), [1, 0, 0]);
  // clockwise for who looks through it: right goes down, up goes right
  const { x: right, y: up } = rolled(level, cross(level, forward), -roll * DEGREE);
  const open = lens.fNumber > 0;
  return {
    key: JSON.stringify([position, target, focal, sensor, roll, aspect, open ? lens : 0]),
    origin: position,
    forward,
    right,
    up,
    halfHeight: sensor / 2 / focal,
    aspect,
    ...(open ? { lens: { radius: lensRadius(focal / 1000, lens), focus: lens.focus } } : {}),
  };
}

/** Nearest focus, in focal lengths: a lens has no picture of what stands in its focal point. */
const NEAREST = 1.05;

/**
 * Radius of the opening, metres: f / (2N), widened by s / (s − f). A real lens that focuses near draws out and sees a smaller field; here
 * the field stays as framed, and the blur on the frame is that of `circleOfConfusion`.
 */
function lensRadius(focal: number, { fNumber, focus }: { fNumber: number; focus: number }): number {
  const s = Math.max(focus, NEAREST * focal);
  return (focal / fNumber / 2) * (s / (s - focal));
}

/**
 * Diameter of the blur that a point at distance `d` makes on the frame, metres: c = A·f·|d − s| / (d·(s − f)), A = f/N.
 * @param focal focal length f, metres
 * @param focus distance in focus s, metres
 */
export const circleOfConfusion = (focal: number, fNumber: number, focus: number, d: number): number =>
  ((focal / fNumber) * focal * Math.abs(d - focus)) / (d * (focus - focal));
