import {
  fromHead,
  setupHead,
  snapThird,
  wrapDegrees,
  type Light,
  type Patch,
  type Place,
  type Prop,
  type RectangleLight,
  type Setup,
} from '@plinket/core';

/** Patches for what the artist does to a light; each is plain data. */
export const lightPatch = (id: string, change: Patch): Patch => ({ lights: { items: { [id]: change } } });

const round = (v: number, digits: number): number => Number(v.toFixed(digits));

/** Moves a light to a place; azimuth is wrapped, elevation and distance kept in range. */
export function placePatch(id: string, place: Partial<Place>): Patch {
  const out: Patch = {};
  if (place.azimuth !== undefined) out['azimuth'] = round(wrapDegrees(place.azimuth), 2);
  if (place.elevation !== undefined) out['elevation'] = round(Math.min(90, Math.max(-90, place.elevation)), 2);
  if (place.distance !== undefined) out['distance'] = round(Math.min(50, Math.max(0.1, place.distance)), 4);
  if (place.aim !== undefined) out['aim'] = place.aim;
  return lightPatch(id, { place: out });
}

export const stopsPatch = (id: string, light: Light, by: number): Patch =>
  lightPatch(id, { stops: round(Math.min(20, Math.max(-20, snapThird(light.stops + by))), 4) });

export const sizePatch = (id: string, light: RectangleLight, factor: number): Patch => {
  const size = (v: number) => round(Math.min(20, Math.max(0.02, v * factor)), 4);
  return lightPatch(id, { width: size(light.width), height: size(light.height) });
};

/** A light added in front of the face, with the next free name and id. */
export function addLightPatch(setup: Setup): { patch: Patch; id: string } {
  let n = setup.lights.order.length + 1;
  while (setup.lights.items[`light-${n}`]) n++;
  const id = `light-${n}`;
  const light: RectangleLight = {
    kind: 'rectangle',
    name: `Light ${n}`,
    on: true,
    stops: 0,
    kelvin: 5600,
    diffuse: 1,
    specular: 1,
    volume: 1,
    place: { azimuth: 20, elevation: 30, distance: 1.5, aim: [0, 0, 0] },
    width: 0.5,
    height: 0.5,
    output: { held: 'luminance', value: 800 },
  };
  return { id, patch: { lights: { order: [...setup.lights.order, id], items: { [id]: light } } } };
}

export const removeLightPatch = (setup: Setup, id: string): Patch => ({
  lights: { order: setup.lights.order.filter((l) => l !== id), items: { [id]: null } },
});

/** A share for everything that gives light of its own, when the setup has none yet. */
export function addGlowPatch(setup: Setup): { patch: Patch; id: string } {
  const light: Light = {
    kind: 'glow',
    name: 'Glow',
    on: true,
    stops: 0,
    kelvin: 6500,
    diffuse: 1,
    specular: 1,
    volume: 1,
    output: { held: 'luminance', value: 1 },
  };
  return { id: 'glow', patch: { lights: { order: [...setup.lights.order, 'glow'], items: { glow: light } } } };
}

/** A mirror ball and a ball of middle grey, one above the other beside the head, close enough to be in a portrait. */
export function addBallsPatch(setup: Setup): Patch {
  const head = setupHead(setup);
  const radius = Number((head.headHeight / 7).toFixed(4));
  const ball = (finish: 'chrome' | 'grey', name: string, up: number): Prop => ({
    kind: 'ball',
    finish,
    name,
    visible: true,
    radius,
    position: fromHead(head, [-head.headHeight * 0.74, up * head.headHeight, 0]).map((v) => round(v, 4)) as Prop['position'],
  });
  return {
    props: { order: ['chrome', 'grey'], items: { chrome: ball('chrome', 'Chrome ball', 0.2), grey: ball('grey', 'Grey ball', -0.2) } },
  };
}
