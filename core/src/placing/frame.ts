// A light whose source stands in the picture: out of it, without a change of its light.
import { add, dot, length, scale, sub, type Vec3 } from '../math/index.ts';
import type { SceneCamera } from '../scene/index.ts';
import {
  axesInWorld,
  fromHead,
  headAround,
  heldBy,
  isPlaced,
  LIMITS,
  placeOf,
  type Light,
  type Patch,
  type PlacedLight,
  type Setup,
} from '../setup/index.ts';
import { lightPatch, placeChange, sizeChange } from '../staging/index.ts';

/** Half the extent of a source along its own axes, metres. */
function halves(light: PlacedLight): [x: number, y: number] {
  switch (light.kind) {
    case 'rectangle':
    case 'disk':
      return [light.width / 2, light.height / 2];
    case 'tube':
      return [light.length / 2, light.diameter / 2];
    default:
      return [light.diameter / 2, light.diameter / 2];
  }
}

/** Whether any of a source lies in the camera's frame. */
export function isInFrame(setup: Setup, light: Light, camera: SceneCamera): boolean {
  if (!isPlaced(light)) return false;
  const { centre, x, y } = axesInWorld(headAround(setup, light), light),
    [w, h] = halves(light);
  let [left, right, low, high] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const i of [-1, 0, 1])
    for (const j of [-1, 0, 1]) {
      const d = sub(add(centre, add(scale(x, i * w), scale(y, j * h))), camera.origin),
        z = dot(d, camera.forward);
      if (z <= 1e-3) continue;
      const px = dot(d, camera.right) / z,
        py = dot(d, camera.up) / z;
      [left, right, low, high] = [Math.min(left, px), Math.max(right, px), Math.min(low, py), Math.max(high, py)];
    }
  const tall = camera.halfHeight,
    wide = tall * camera.aspect;
  return left < wide && right > -wide && low < tall && high > -tall;
}

export interface OutOfFrame {
  patch: Patch;
  /** How many times as far and as large; 1 where the source is hidden from the camera instead. */
  factor: number;
}

/** Furthest that a source is pulled back, and in which steps that is tried. */
const MOST = 30,
  STEP = 1.04;

/**
 * A source that stands in the picture is pulled back along its aim and enlarged as much, so that solid angle and irradiance where it aims stay what
 * they are; where no distance takes it out of the picture, or its size cannot follow, the camera does not see it any more. Nothing where it is not
 * in the picture.
 */
export function placeOutOfFrame(setup: Setup, id: string, camera: SceneCamera): OutOfFrame | undefined {
  const light = setup.lights.items[id];
  if (!light || !isInFrame(setup, light, camera)) return undefined;
  const hidden: OutOfFrame = { patch: lightPatch(id, { seen: { camera: false } }), factor: 1 };
  if (!isPlaced(light) || light.kind === 'spot' || light.kind === 'profile') return hidden;
  const head = headAround(setup, light),
    aim = fromHead(head, light.place.aim),
    reach = sub(axesInWorld(head, light).centre, aim);
  // its luminance stays, whatever its output is held by
  const output = heldBy(light, 'luminance');
  for (let factor = STEP; factor < MOST; factor *= STEP) {
    const at: Vec3 = add(aim, scale(reach, factor));
    const place = placeOf(head, at);
    const size = { ...sizeChange(light, factor), ...(light.kind === 'tube' ? { diameter: light.diameter * factor } : {}) };
    const most = Math.max(...Object.values(size).filter((v) => typeof v === 'number'));
    if (place.distance > LIMITS.distance[1] || most > LIMITS.size[1] * 0.999 || at[1] < setup.stage.floor) break;
    const change = { place: placeChange(place), ...size, output };
    const moved = { ...light, ...size, place: { ...light.place, ...placeChange(place) } } as PlacedLight;
    if (length(reach) > 0 && !isInFrame(setup, moved, camera)) return { patch: lightPatch(id, change), factor };
  }
  return hidden;
}
