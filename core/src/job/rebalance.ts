// What may still be changed when all rays are traced: levels, colours, on and off, shares, exposure, look.
import { z } from 'zod';
import { applyPatch, lightSchema, LIMITS, lookSchema, type Patch, type Setup } from '../setup/index.ts';

const { on, stops, kelvin, tint, picked, diffuse, specular, volume } = lightSchema.options[0].shape;
const lightBalanceSchema = z.strictObject({ on, stops, kelvin, tint, picked, diffuse, specular, volume }).partial();
export type LightBalance = z.infer<typeof lightBalanceSchema>;

/** A balance: by the ids of lights, and of the whole picture. What it does not say stays as it is. */
export const balanceSchema = z.strictObject({
  lights: z.record(z.string().min(1).max(60), lightBalanceSchema).default({}),
  look: lookSchema.partial().optional(),
  /** Stops that the camera lets in more or less. */
  ev: z.number().min(LIMITS.ev[0]).max(LIMITS.ev[1]).optional(),
});
export type Balance = z.infer<typeof balanceSchema>;

/** What a balance does to a setup, as a patch; lights that it does not have are left out. */
export function balancePatch(setup: Setup, { lights, look, ev }: Balance): Patch {
  const items = Object.fromEntries(Object.entries(lights).filter(([id, change]) => setup.lights.items[id] && Object.keys(change).length));
  return {
    ...(Object.keys(items).length ? { lights: { items } } : {}),
    ...(look && Object.keys(look).length ? { look } : {}),
    ...(ev === undefined ? {} : { camera: { ev } }),
  } as Patch;
}

/** A setup as a balance has it. */
export const rebalanced = (setup: Setup, balance: Balance): Setup => applyPatch(setup, balancePatch(setup, balance));

/** What differs between two setups that a balance can say; the rest is left out. */
export function balanceBetween(before: Setup, after: Setup): Balance {
  const lights: Record<string, LightBalance> = {};
  const keys = Object.keys(lightBalanceSchema.shape) as (keyof LightBalance)[];
  for (const [id, light] of Object.entries(after.lights.items)) {
    const was = before.lights.items[id];
    if (!was) continue;
    const change = Object.fromEntries(keys.filter((k) => JSON.stringify(was[k]) !== JSON.stringify(light[k])).map((k) => [k, light[k]]));
    if (Object.keys(change).length) lights[id] = change as LightBalance;
  }
  const look = Object.fromEntries(
    Object.entries(after.look).filter(([k, v]) => JSON.stringify(before.look[k as keyof Setup['look']]) !== JSON.stringify(v)),
  ) as Partial<Setup['look']>;
  return {
    lights,
    ...(Object.keys(look).length ? { look } : {}),
    ...(before.camera.ev === after.camera.ev ? {} : { ev: after.camera.ev }),
  };
}
