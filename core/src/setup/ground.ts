import { DEGREE, turnY, type Vec3 } from '../math/index.ts';
import { inOrder } from './rank.ts';
import type { Prop, Setup } from './schema.ts';

/** Height of a thing's upper side over a point that it is trodden on; nothing where the point lies beside it. */
export function topOf(prop: Prop, x: number, z: number): number | undefined {
  const away: Vec3 = [x - prop.position[0], 0, z - prop.position[2]];
  if (prop.kind === 'ball') return undefined;
  if (prop.kind === 'plinth') {
    const reach = prop.shape === 'square' ? Math.max(Math.abs(away[0]), Math.abs(away[2])) : Math.hypot(away[0], away[2]);
    // a rock's even top is narrower than its widest girth
    return reach <= (prop.width / 2) * (prop.shape === 'rock' ? 0.8 : 1) ? prop.position[1] + prop.height : undefined;
  }
  const [aside, , towards] = turnY(away, -prop.turn * DEGREE);
  const step = Math.floor(-towards / prop.tread);
  if (Math.abs(aside) > prop.width / 2 || step < 0 || step >= prop.count) return undefined;
  return prop.position[1] + (step + 1) * prop.rise;
}

/** What one stands on at a place: the floor, or the highest visible thing there. `name` is that thing's. */
export function groundAt({ stage, props }: Pick<Setup, 'stage' | 'props'>, x: number, z: number): { height: number; name?: string } {
  let ground: { height: number; name?: string } = { height: stage.floor };
  for (const prop of inOrder(props)) {
    const top = prop.visible ? topOf(prop, x, z) : undefined;
    if (top !== undefined && top > ground.height) ground = { height: top, name: prop.name };
  }
  return ground;
}
