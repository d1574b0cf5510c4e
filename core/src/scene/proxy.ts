import { MeshoptSimplifier } from 'meshoptimizer';
import type { HeadFrame } from '../setup/index.ts';
import { isVeil } from '../surface/index.ts';
import type { CharacterAsset, Part } from './asset.ts';
import { partsAt, type Pose } from './pose.ts';

/** A character in few triangles, one mesh, for views that only have to show where it stands. */
export interface FigureProxy {
  positions: Float32Array;
  normals: Float32Array;
  /** Linear r g b of each vertex: the material's base colour times the vertex's own. */
  colours: Float32Array;
  indices: Uint32Array;
}

/** Which vertices of one part stay, and the triangles between them. */
interface Kept {
  part: number;
  /** Vertices of the part, in the order that `indices` counts them. */
  vertices: Uint32Array;
  indices: Uint32Array;
}

/** Triangles that every part keeps at least, if it has them: an eye must stay an eye. */
const LEAST = 24;

function areaOf({ positions, indices }: Part): number {
  let area = 0;
  const at = (c: number, k: number): number => positions[indices[c]! * 3 + k]!;
  for (let i = 0; i < indices.length; i += 3) {
    const u = [0, 1, 2].map((k) => at(i + 1, k) - at(i, k)),
      v = [0, 1, 2].map((k) => at(i + 2, k) - at(i, k));
    area += 0.5 * Math.hypot(u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!);
  }
  return area;
}

function compact(indices: Uint32Array): { vertices: Uint32Array; indices: Uint32Array } {
  const to = new Map<number, number>();
  const local = indices.map((v) => {
    if (!to.has(v)) to.set(v, to.size);
    return to.get(v)!;
  });
  return { vertices: Uint32Array.from(to.keys()), indices: local };
}

/** The parts that are shown: the largest, until half of the triangles are spoken for by what each keeps at least. */
function largest<T extends { part: Part; i: number; weight: number }>(parts: T[], target: number): T[] {
  let left = target / 2;
  return [...parts]
    .sort((a, b) => b.weight - a.weight)
    .filter(({ part }) => (left -= Math.min(LEAST, part.indices.length / 3)) >= 0)
    .sort((a, b) => a.i - b.i);
}

/**
 * Chooses the triangles that stay of a character, about `target` in all, shared by the square root of each part's area so that
 * small things stay to be seen; of very many parts the smallest go. What light passes through is left out. Poses use the same
 * choice.
 */
export async function chooseProxy(asset: CharacterAsset, target: number): Promise<Kept[]> {
  await MeshoptSimplifier.ready;
  const seen = asset.parts.flatMap((part, i) => (isVeil(part.material) ? [] : [{ part, i, weight: Math.sqrt(areaOf(part)) }]));
  const shown = largest(seen, target);
  const total = shown.reduce((sum, s) => sum + s.weight, 0) || 1;
  return shown.map(({ part, i, weight }) => {
    const wanted = Math.max(LEAST, Math.round((target * weight) / total)) * 3;
    let { indices } = part;
    if (indices.length > wanted) {
      // many small pieces cannot be made fewer edge by edge, and strands of hair are such
      const strands = part.material.fibres > 0;
      if (!strands) [indices] = MeshoptSimplifier.simplify(part.indices, part.positions, 3, wanted, 1, ['Prune']);
      if (strands || indices.length > 2 * wanted || !indices.length)
        [indices] = MeshoptSimplifier.simplifySloppy(part.indices, part.positions, 3, null, wanted, 1);
    }
    return { part: i, ...compact(indices) };
  });
}

/** The chosen triangles at a moment of a clip. */
export function proxyAt(asset: CharacterAsset, kept: Kept[], pose: Pose | undefined): FigureProxy {
  const posed = partsAt(asset, pose);
  const count = kept.reduce((n, k) => n + k.vertices.length, 0);
  const out: FigureProxy = {
    positions: new Float32Array(count * 3),
    normals: new Float32Array(count * 3),
    colours: new Float32Array(count * 3),
    indices: new Uint32Array(kept.reduce((n, k) => n + k.indices.length, 0)),
  };
  let v = 0,
    c = 0;
  for (const { part, vertices, indices } of kept) {
    const { positions, normals, colours, material } = posed[part]!;
    vertices.forEach((from, i) => {
      for (let k = 0; k < 3; k++) {
        out.positions[(v + i) * 3 + k] = positions[from * 3 + k]!;
        out.normals[(v + i) * 3 + k] = normals[from * 3 + k]!;
        out.colours[(v + i) * 3 + k] = material.base[k]! * (colours?.[from * 3 + k] ?? 1);
      }
    });
    indices.forEach((i, k) => (out.indices[c + k] = v + i));
    v += vertices.length;
    c += indices.length;
  }
  return out;
}

/** How far round a head its mesh is shown, in its heights from its middle. */
const AROUND = 0.95;

/** A character's head alone, at rest, in about so many triangles: to be looked at closely and pointed at. */
export async function headProxy(asset: CharacterAsset, head: HeadFrame, target: number): Promise<FigureProxy> {
  // its middle lies behind the eyes
  const middle = head.origin.map((v, k) => v - 0.35 * head.height * head.forward[k]!),
    reach = AROUND * head.height;
  const parts = asset.parts.flatMap((part): Part[] => {
    const indices: number[] = [];
    for (let t = 0; t < part.indices.length; t += 3) {
      const corners = [...part.indices.subarray(t, t + 3)];
      // a coarse triangle may reach across the head with its corners far away
      const near = middle.every((m, k) => {
        const at = corners.map((c) => part.positions[c * 3 + k]!);
        return Math.min(...at) < m + reach && Math.max(...at) > m - reach;
      });
      if (near) indices.push(...corners);
    }
    return indices.length ? [{ ...part, indices: Uint32Array.from(indices) }] : [];
  });
  const cropped = { ...asset, parts };
  return proxyAt(cropped, await chooseProxy(cropped, target), undefined);
}
