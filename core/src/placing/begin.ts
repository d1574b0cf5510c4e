// From an intention to lights that stand on this face.
import { lookUp, type FaceLight, type Score } from '../face/index.ts';
import { firstInSight, freeId, orderOf, withRanks, type Light, type Patch, type PlacedLight, type Setup } from '../setup/index.ts';
import { panel, spotOnBackdrop, type Spec } from '../staging/index.ts';
import { readLightOf } from '../trace/index.ts';
import type { Brief } from './briefs.ts';
import { withLight, type Stand } from './stand.ts';
import { placeCatchlight } from './mirror.ts';
import { placePattern } from './pattern.ts';
import { placeRatio } from './ratio.ts';

export interface Begun {
  patch: Patch;
  /** The key: where it stands, and what it draws there. */
  key: { azimuth: number; elevation: number; reached: boolean; score: Score };
  /** Lit to shadow side, where that was asked for. */
  ratio?: { wished: number; value: number; reached: boolean };
  /** Hours of the catchlight that was asked for, where it is seen. */
  catchlight?: { wished: number; hours: number[] };
  lights: number;
  kept: number;
}

/** Two of the figure's own sides. */
type Side = 'left' | 'right';

/** The side from which a key comes: as the one that is there does, else from the side that is turned away from the camera (short light). */
function sideOf({ setup, cameraAzimuth }: Stand): Side {
  const key = orderOf(setup.lights)
    .map((id) => setup.lights.items[id]!)
    .find((l): l is PlacedLight => l.role === 'key' && 'place' in l);
  if (key && Math.abs(key.place.azimuth) > 1) return key.place.azimuth > 0 ? 'left' : 'right';
  return cameraAzimuth > 0 ? 'right' : 'left';
}

/**
 * A starting rig for an intention, on this face: the key to where its pattern is shown, the fill to the ratio, an eye light to its hour. It takes the
 * place of all lights that are not locked.
 */
export function begin(stand: Stand, brief: Brief): Begun {
  const { setup, map } = stand;
  const kept = Object.fromEntries(Object.entries(setup.lights.items).filter(([, l]) => l.locked));
  const side = sideOf(stand),
    sign = side === 'left' ? 1 : -1;
  // the rig's own places are about the head of the face that is read
  const about = setup.lights.items;
  const taken: Record<string, unknown> = { ...about };
  const lights: Record<string, Light> = {};
  const put = (stem: string, light: Light): string => {
    const id = freeId(taken, stem);
    taken[id] = light;
    lights[id] = light;
    return id;
  };
  let bare: Setup = { ...setup, lights: { items: kept } };
  const faceLight = (id: string, light: Light): FaceLight => {
    const found = stand.at(withLight(bare, id, light), id);
    if (!found) throw new Error(`${light.name} gives no light.`);
    return found;
  };
  const { key: spec } = brief;
  const flat = (role: Light['role'], name: string, s: { width: number; height: number } & Spec, round = false): PlacedLight =>
    ({
      ...panel(setup, role, name, s.width, s.height, s, round),
      ...(firstInSight(setup) === stand.subject ? {} : { around: stand.subject }),
    }) as PlacedLight;

  const key = flat('key', 'Key', { ...spec, azimuth: 40 * sign, elevation: 30 });
  const keyId = put('key', key);
  const placed = placePattern(map, { pattern: spec.pattern, from: side }, (azimuth, elevation) =>
    faceLight(keyId, { ...key, place: { ...key.place, azimuth, elevation } }),
  );
  key.place = { ...key.place, azimuth: placed.azimuth, elevation: placed.elevation };
  bare = withLight(bare, keyId, key);

  let ratio: Begun['ratio'];
  if (brief.fill) {
    // from beside the camera, on the side that the key leaves dark
    const camera = stand.cameraAzimuth;
    const away = Math.abs(placed.azimuth) < 20 || Math.abs(placed.azimuth) > 110 ? camera : -Math.sign(placed.azimuth) * 40;
    const fill = flat('fill', 'Fill', {
      ...brief.fill,
      azimuth: away,
      elevation: brief.fill.elevation ?? (placed.elevation < 0 ? 20 : 4),
      distance: 1.9,
    });
    const fillId = put('fill', fill);
    bare = withLight(bare, fillId, fill);
    if (brief.ratio !== undefined) {
      const lights = [keyId, fillId].map((id) => {
        const light = faceLight(id, bare.lights.items[id]!);
        return readLightOf(bare, light, lookUp(map, light));
      });
      const { features } = stand.meter.read(lights, stand.camera);
      if (features) {
        const found = placeRatio(map, features, lights, fillId, brief.ratio);
        fill.output = { ...fill.output, value: Number((fill.output.value * 2 ** found.stops).toPrecision(4)) };
        bare = withLight(bare, fillId, fill);
        ratio = { wished: brief.ratio, value: found.value, reached: found.reached };
      }
    }
  }
  for (const [stem, name, part] of [
    ['rim', 'Rim', brief.rim],
    ['kick', 'Kick', brief.kick],
  ] as const) {
    if (!part) continue;
    // seen by the camera as beyond the figure, whichever way the head is turned
    put(stem, flat(stem, name, { ...part, azimuth: stand.cameraAzimuth + sign * part.azimuth }));
  }
  let catchlight: Begun['catchlight'];
  if (brief.eye) {
    const eye = {
      ...flat(
        'eye',
        'Eye',
        { width: 0.12, height: 0.12, kelvin: brief.eye.kelvin, share: 0.25, azimuth: 0, elevation: 0, distance: 1 },
        true,
      ),
      diffuse: 0.1,
    };
    const found = placeCatchlight(map, eye.place.distance, { clock: brief.eye.clock, eyes: 'both' }, stand.camera);
    if (found) {
      eye.place = { ...eye.place, azimuth: Number(found.azimuth.toFixed(1)), elevation: Number(found.elevation.toFixed(1)) };
      put('eye', eye);
      catchlight = { wished: brief.eye.clock, hours: found.found.filter((c) => c.seen).map((c) => c.clock) };
    }
  }
  if (brief.backdrop) {
    const light = spotOnBackdrop(setup);
    put('backdrop', {
      ...light,
      kelvin: brief.backdrop.kelvin,
      output: { ...light.output, value: Number((light.output.value * brief.backdrop.share).toPrecision(4)) },
    });
  }
  const gone: Patch = Object.fromEntries(
    Object.keys(about)
      .filter((id) => !kept[id])
      .map((id) => [id, null]),
  );
  return {
    patch: { lights: { items: { ...gone, ...(withRanks(setup.lights, lights) as unknown as Patch) } } },
    key: { azimuth: placed.azimuth, elevation: placed.elevation, reached: placed.reached, score: placed.score },
    ...(ratio ? { ratio } : {}),
    ...(catchlight ? { catchlight } : {}),
    lights: Object.keys(lights).length,
    kept: Object.keys(kept).length,
  };
}
