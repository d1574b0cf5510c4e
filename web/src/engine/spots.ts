// Points of the picture as points of surfaces, for wishes that are pointed at; and what lights do at one.
import {
  isReached,
  luminance,
  luminanceOf,
  orderOf,
  pickAt,
  setupGains,
  toneOf,
  type FilmSource,
  type PlaceWish,
  type ReadResult,
  type Scene,
  type Seen,
  type Setup,
  type Vec3,
} from '@plinket/core';
import type { Asked, Spot, Wished } from './messages.ts';

/** Pixels about a stroke in which the silhouette is looked for. */
const BESIDE = 4;

const pixelOf = ({ width, height }: FilmSource, [x, y]: Spot): [number, number] => [
  Math.min(width - 1, Math.max(0, Math.floor(x * width))),
  Math.min(height - 1, Math.max(0, Math.floor(y * height))),
];

/** The surface at a point of the picture. @throws Error where nothing is */
export function surfaceAt(source: FilmSource, spot: Spot): { point: Vec3; normal: Vec3 } {
  const [x, y] = pixelOf(source, spot),
    p = y * source.width + x,
    { guides } = source;
  if (!(guides.mean(p, 10) > 0)) throw new Error('Nothing is there.');
  const of = (c: number): Vec3 => [guides.mean(p, c), guides.mean(p, c + 1), guides.mean(p, c + 2)];
  return { point: of(4), normal: of(1) };
}

/** Normals of the figure's surface along a stroke, where it turns away from the camera most. */
function edgeNormals(source: FilmSource, scene: Scene, stroke: readonly Spot[]): Vec3[] {
  const { guides, width, height } = source,
    { forward } = scene.camera;
  return stroke.flatMap((spot) => {
    const [x, y] = pixelOf(source, spot);
    let best: { normal: Vec3; facing: number } | undefined;
    for (let j = Math.max(0, y - BESIDE); j <= Math.min(height - 1, y + BESIDE); j++)
      for (let i = Math.max(0, x - BESIDE); i <= Math.min(width - 1, x + BESIDE); i++) {
        const p = j * width + i;
        if (!(guides.mean(p, 10) > 0) || !scene.geometry.objects[guides.ids[p * 2]!]?.startsWith('subjects/')) continue;
        const normal: Vec3 = [guides.mean(p, 1), guides.mean(p, 2), guides.mean(p, 3)];
        const facing = Math.abs(normal[0] * forward[0] + normal[1] * forward[1] + normal[2] * forward[2]);
        if (!best || facing < best.facing) best = { normal, facing };
      }
    return best ? [best.normal] : [];
  });
}

/** A wish with what was pointed at found on the surfaces of the picture; others ask for no picture: a black setup has none. @throws Error where nothing is there */
export function found(wish: Wished, picture: () => FilmSource, scene: Scene, seen: Seen | undefined): PlaceWish {
  switch (wish.kind) {
    case 'highlight':
      return { kind: 'highlight', ...surfaceAt(picture(), wish.at) };
    case 'shadow': {
      const source = picture();
      return {
        kind: 'shadow',
        pairs: wish.pairs.map(({ falls, casts }) => ({ falls: surfaceAt(source, falls).point, casts: surfaceAt(source, casts).point })),
      };
    }
    case 'rim': {
      const normals = edgeNormals(picture(), scene, wish.stroke);
      if (!normals.length) throw new Error('There is no figure along that stroke.');
      return { kind: 'rim', normals };
    }
    case 'targets':
      if (!seen) throw new Error('The picture is not calm enough yet to be measured.');
      return { kind: 'targets', targets: wish.targets, given: seen.lights };
    default:
      return wish;
  }
}

/** Direct light is whole above this share of what would come, and gone below. */
const WHOLE = 0.9,
  GONE = 0.1;

/** What each light does at a point: of the picture by its films, of its direct light by rays (`read`, of the scene's lights at that one point). */
export function askedAt(source: FilmSource, scene: Scene, setup: Setup, spot: Spot, read: ReadResult): Asked | undefined {
  const picked = pickAt(source.guides, scene, ...spot);
  if (!picked) return undefined;
  const [x, y] = pixelOf(source, spot);
  const gains = setupGains(setup);
  const own = (id: string): number => {
    const film = source.shown(id)?.film;
    if (!film || film.width !== source.width) return 0;
    const at = luminanceOf(film, gains[id]!);
    // a few pixels about it: one alone is noise
    let sum = 0,
      n = 0;
    for (let j = Math.max(0, y - 1); j <= Math.min(source.height - 1, y + 1); j++)
      for (let i = Math.max(0, x - 1); i <= Math.min(source.width - 1, x + 1); i++, n++) sum += at(j * source.width + i);
    return sum / n;
  };
  const ids = orderOf(setup.lights).filter((id) => setup.lights.items[id]!.on),
    values = ids.map(own),
    whole = values.reduce((a, b) => a + b, 0);
  return {
    object: picked.object,
    tone: toneOf(whole),
    lights: ids.map((id, i) => {
      const l = scene.lights.findIndex((light) => light.id === id);
      const y3 = (a: Float32Array) => luminance(a[l * 3]!, a[l * 3 + 1]!, a[l * 3 + 2]!);
      const open = l < 0 ? 0 : y3(read.open),
        share = open > 0 ? y3(read.lit) / open : 0,
        by = l < 0 ? -1 : read.blockers[l]!,
        lit = isReached(scene.lights[l]?.reach?.lights, picked.object);
      return {
        id,
        share: whole > 0 ? values[i]! / whole : 0,
        stops: Math.log2(Math.max(values[i]!, 1e-9) / Math.max(whole, 1e-9)),
        state: !lit ? 'out' : open <= 0 ? 'away' : share > WHOLE ? 'lit' : share > GONE ? 'half' : 'shadow',
        ...(lit && by >= 0 && share <= WHOLE ? { by: scene.geometry.objects[by]! } : {}),
      };
    }),
  };
}
