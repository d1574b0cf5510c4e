// What may still be changed when all rays are traced: levels, colours, on and off, shares, exposure, look. Changes are relative, so that frames whose
// lights differ keep their differences.
import { z } from 'zod';
import { applyPatch, LIMITS, lookSchema, type Light, type Look, type Patch, type Setup } from '../setup/index.ts';

/** Farthest that a balance moves a level (stops), a colour (mired; thousandths of CIE 1960 u v) and the exposure (stops). */
export const BALANCE_LIMITS = { stops: [-12, 12], mired: [-200, 200], tint: [-50, 50], exposure: [-8, 8] } as const;
const within = ([least, most]: readonly [number, number]) => z.number().min(least).max(most);

const lightBalanceSchema = z
  .strictObject({
    on: z.boolean(),
    /** Stops brighter. */
    stops: within(BALANCE_LIMITS.stops),
    /** Mired warmer. */
    mired: within(BALANCE_LIMITS.mired),
    /** Towards green. */
    tint: within(BALANCE_LIMITS.tint),
    /** Factors on its shares. */
    diffuse: within(LIMITS.share),
    specular: within(LIMITS.share),
    volume: within(LIMITS.share),
  })
  .partial();
export type LightBalance = z.infer<typeof lightBalanceSchema>;

/** A balance: by the ids of lights, and of the whole picture. What it does not say stays as it is. */
export const balanceSchema = z.strictObject({
  lights: z.record(z.string().min(1).max(60), lightBalanceSchema).default({}),
  look: lookSchema.omit({ smooth: true }).partial().optional(),
  /** Stops brighter. */
  exposure: within(BALANCE_LIMITS.exposure).optional(),
});
export type Balance = z.infer<typeof balanceSchema>;

const clamped = (v: number, [least, most]: readonly [number, number]): number => Math.min(most, Math.max(least, v));

/** A colour temperature so many mired warmer (mired: a million over kelvin, in which equal steps look alike), in whole kelvin. */
export const warmer = (kelvin: number, mired: number): number => {
  const to = 1e6 / kelvin + mired;
  return clamped(to > 0 ? Math.round(1e6 / to) : LIMITS.kelvin[1], LIMITS.kelvin);
};

function lightPatch(light: Light, { on, stops, mired, tint, diffuse, specular, volume }: LightBalance): Patch {
  const change: Patch = {};
  if (on !== undefined && on !== light.on) change['on'] = on;
  if (stops) change['stops'] = clamped(light.stops + stops, LIMITS.stops);
  if (mired) change['kelvin'] = warmer(light.kelvin, mired);
  if (tint) change['tint'] = clamped(light.tint + tint, LIMITS.tint);
  for (const [name, factor] of Object.entries({ diffuse, specular, volume }) as ['diffuse', number | undefined][])
    if (factor !== undefined && factor !== 1) change[name] = clamped(light[name] * factor, LIMITS.share);
  return change;
}

/** What a balance does to a setup, as a patch; lights that the setup does not have are left out. */
export function balancePatch(setup: Setup, { lights, look, exposure }: Balance): Patch {
  const items: Record<string, Patch> = {};
  for (const [id, change] of Object.entries(lights)) {
    const light = setup.lights.items[id],
      patch = light && lightPatch(light, change);
    if (patch && Object.keys(patch).length) items[id] = patch;
  }
  const looks = Object.entries(look ?? {}).filter(([key, v]) => v !== undefined && setup.look[key as keyof Look] !== v);
  return {
    ...(Object.keys(items).length ? { lights: { items } } : {}),
    ...(looks.length ? { look: Object.fromEntries(looks) } : {}),
    ...(exposure ? { camera: { ev: clamped(setup.camera.ev - exposure, LIMITS.ev) } } : {}),
  };
}

/** A setup as a balance has it. */
export const rebalanced = (setup: Setup, balance: Balance): Setup => applyPatch(setup, balancePatch(setup, balance));
