// A figure of 100 000 triangles on a skeleton is put into another pose: until its coarse picture stands, in Node on all cores.
import { compile, partsAt, readGlb, type CharacterAsset, type Part, type Setup } from '@plinket/core';
import { demoSetup, keeperFile } from '@plinket/demo';
import { Renderer } from '@plinket/engine';
import { loadFilmMath, nodePool } from '@plinket/engine/node';
import { readFileSync } from 'node:fs';
import { median, report } from './report.ts';

const TRIANGLES = 100_000;
const rest = await readGlb(readFileSync(keeperFile), 'keeper.glb');

/** The keeper's skin with every triangle divided, until there are enough, hung on a neck and a chest by height. */
function skinned(): CharacterAsset {
  const source = rest.parts.find((p) => p.name === 'skin')!;
  let { positions, normals, indices } = source;
  while (indices.length / 3 < TRIANGLES) ({ positions, normals, indices } = divided(positions, normals, indices));
  // corners are not shared, so that a piece of it is a mesh as well
  if (indices.length > TRIANGLES * 3)
    [positions, normals, indices] = [positions.slice(0, TRIANGLES * 9), normals.slice(0, TRIANGLES * 9), indices.slice(0, TRIANGLES * 3)];
  const count = positions.length / 3,
    jointIndices = new Uint16Array(count * 4),
    weights = new Float32Array(count * 4);
  for (let v = 0; v < count; v++) {
    const t = Math.min(1, Math.max(0, (positions[v * 3 + 1]! - 1.35) / 0.15));
    jointIndices[v * 4 + 1] = 1;
    weights[v * 4] = 1 - t;
    weights[v * 4 + 1] = t;
  }
  const identity = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
  const neck = [...identity];
  neck[13] = -1.4;
  const rig: NonNullable<Part['rig']> = {
    node: 0,
    positions,
    normals,
    targets: [],
    weights: [],
    skin: { joints: [0, 1], inverse: Float32Array.from([...identity, ...neck]), indices: jointIndices, weights },
  };
  const node = (name: string, parent: number, y: number) => ({
    name,
    parent,
    translation: [0, y, 0],
    rotation: [0, 0, 0, 1],
    scale: [1, 1, 1],
  });
  const turn = [0, 0.3827, 0, 0.9239];
  return {
    ...rest,
    // the others hang on the keeper's own skeleton, which is not this one: they stand still
    parts: [{ ...source, positions, normals, indices, rig }, ...rest.parts.filter((p) => p !== source).map(({ rig: _, ...p }) => p)],
    triangles: indices.length / 3,
    rig: {
      nodes: [node('chest', -1, 0), node('neck', 0, 1.4)],
      clips: [
        {
          name: 'turn',
          duration: 1,
          channels: [
            {
              node: 1,
              path: 'rotation',
              times: Float32Array.of(0, 1),
              values: Float32Array.of(0, 0, 0, 1, ...turn),
              interpolation: 'LINEAR',
            },
          ],
        },
      ],
    },
  } as CharacterAsset;
}

/** Every triangle made four by the middles of its sides; corners are not shared. */
function divided(p: Float32Array, n: Float32Array, index: Uint32Array) {
  const positions: number[] = [],
    normals: number[] = [];
  for (let i = 0; i < index.length; i += 3) {
    const corner = (a: Float32Array, k: number) => [0, 1, 2].map((c) => a[index[i + k]! * 3 + c]!);
    const middle = (a: number[], b: number[]) => a.map((v, k) => (v + b[k]!) / 2);
    const four = (a: Float32Array) => {
      const [x, y, z] = [corner(a, 0), corner(a, 1), corner(a, 2)] as [number[], number[], number[]];
      const [u, v, w] = [middle(x, y), middle(y, z), middle(z, x)];
      return [x, u, w, u, y, v, w, v, z, u, v, w].flat();
    };
    positions.push(...four(p));
    normals.push(...four(n));
  }
  return {
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    indices: Uint32Array.from({ length: positions.length / 3 }, (_, i) => i),
  };
}

const asset = skinned();
const at = (time: number): Setup => {
  const setup = demoSetup('0'.repeat(64), asset.head);
  const keeper = setup.subjects.items['keeper']!;
  return { ...setup, subjects: { ...setup.subjects, items: { keeper: { ...keeper, pose: { clip: 'turn', time } } } } };
};
const pool = nodePool();
const renderer = new Renderer(pool, loadFilmMath());
let scene = compile(at(0), () => asset);
/** Milliseconds from the wish to its coarse picture. */
const show = (time: number): Promise<number> =>
  new Promise((resolve, reject) => {
    const start = performance.now();
    renderer.onError = reject;
    renderer.onProgress = () => renderer.set.presentable && resolve(performance.now() - start);
    scene = compile(at(time), () => asset, scene);
    renderer.update({ number: 1, scene, options: { width: 640, height: 360, samples: 1, seed: 1, bounces: 3, coarse: true } });
  });
await show(0);
const all: number[] = [],
  skinning: number[] = [];
for (let i = 1; i <= 8; i++) {
  const start = performance.now();
  partsAt(asset, { clip: 'turn', time: i / 20 });
  skinning.push(performance.now() - start);
  all.push(await show(i / 10 + 0.013));
}
report('pose', { ms: median(all), skinning_ms: median(skinning), triangles: asset.triangles }, [
  `${Math.round(asset.triangles / 1000)} 000 triangles on two joints: ${median(all).toFixed(0)} ms to the coarse picture of 640 × 360, ${median(skinning).toFixed(0)} ms of it bending`,
]);
process.exit(0);
