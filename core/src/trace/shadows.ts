import type { RayKernel } from '@plinket/kernel';
import type { LightSampler } from './lights/index.ts';
import type { ReachTables } from './reach.ts';

/** What waits for rays that meet objects whose shadow is less than whole keeps what that leaves; blocked are those that meet another. */
function thin(
  kernel: RayKernel,
  { groups, whole }: NonNullable<ReachTables['partial']>,
  waiting: Float32Array,
  stride: number,
  count: number,
): void {
  const { blocked } = kernel;
  for (const { table, stays } of groups) {
    kernel.occluded(count, table);
    for (let i = 0; i < count; i++) {
      if (!blocked[i]) continue;
      for (let c = 0; c < stride; c++) waiting[i * stride + c] = waiting[i * stride + c]! * stays[c % 3]!;
    }
  }
  kernel.occluded(count, whole);
}

/**
 * Asks for the first `count` shadow rays of a light what is in their way. Of a light with a bent shadow some of what waits for a
 * blocked ray stays (`stride` floats each, r g b by r g b), and the ray counts as open.
 */
export function meetShadows(kernel: RayKernel, { light, reach }: LightSampler, waiting: Float32Array, stride: number, count: number): void {
  const { blocked } = kernel,
    { bent } = light;
  if (bent && !bent.cast) {
    blocked.fill(0, 0, count);
    return;
  }
  const { partial } = reach;
  if (partial) thin(kernel, partial, waiting, stride, count);
  else kernel.occluded(count, reach.casts);
  if (!bent || !bent.stays.some((v) => v > 0)) return;
  for (let i = 0; i < count; i++) {
    if (!blocked[i]) continue;
    blocked[i] = 0;
    for (let c = 0; c < stride; c++) waiting[i * stride + c] = waiting[i * stride + c]! * bent.stays[c % 3]!;
  }
}
