// A shot brought to what its neighbour shows: the key from there, the face as bright.
import { clamp } from '../math/index.ts';
import { luminance } from '../photometry/index.ts';
import { isPlaced, LIMITS, orderOf, type KeptReading, type Patch, type Setup } from '../setup/index.ts';
import { placePatch } from '../staging/index.ts';
import { MOST_RATIO } from './continuity.ts';

/** What matching changes at once, and what is left to placing. */
export interface Match {
  patch: Patch;
  /** The light and the ratio that it is to bring back. */
  ratio?: { light: string; value: number };
  /** What cannot be matched, and why. */
  left: string[];
}

/**
 * Brings the key to where the neighbour's comes from, by the angles that were read of both faces, and the exposure to where its face is as bright. The
 * ratio is for the fill to bring back, by placing, once that stands.
 * @param key the light that was read as the key here
 */
export function matchTo(setup: Setup, key: string | undefined, here: KeptReading, there: KeptReading): Match {
  const left: string[] = [],
    light = key === undefined ? undefined : setup.lights.items[key];
  let patch: Patch = {};
  if (!here.key || !there.key || !light) left.push('the key’s direction: one of both faces has none');
  else if (!isPlaced(light)) left.push(`${light.name} has no place about a head`);
  else if (light.locked) left.push(`${light.name} is locked`);
  else {
    const { azimuth, elevation } = light.place;
    const place = {
      azimuth: azimuth + there.key.azimuth - here.key.azimuth,
      elevation: elevation + there.key.elevation - here.key.elevation,
    };
    patch = placePatch(key!, place);
  }
  if (!here.face || !there.face) left.push('how bright the face is: one of both was not read');
  else {
    // a higher exposure value is a darker picture
    const by = Math.log2(Math.max(luminance(...there.face), 1e-6) / Math.max(luminance(...here.face), 1e-6));
    patch = { ...patch, camera: { ev: Number(clamp(setup.camera.ev - by, LIMITS.ev).toFixed(3)) } };
  }
  const fill = orderOf(setup.lights).find((id) => {
    const l = setup.lights.items[id]!;
    return l.role === 'fill' && l.on && !l.locked && id !== key;
  });
  if (there.ratio === undefined || there.ratio > MOST_RATIO) left.push('the ratio: the neighbour shows none that a level makes');
  else if (fill === undefined) left.push('the ratio: no light is a fill');
  else return { patch, ratio: { light: fill, value: there.ratio }, left };
  return { patch, left };
}
