/** One part's tree: reference of its root, box (lower x y z, upper x y z); an empty part has none. */
export interface PartRoot {
  root: number;
  box: number[] | undefined;
}

const LEAF = 0x80000000;
const FAR = 1e30;

/** Most nodes that a tree over so many parts needs. */
export const topNodes = (parts: number): number => Math.max(1, parts);

/**
 * Writes 4-wide nodes over the roots of parts, in the format of `assembly/index.ts`, from `at` on; answers the reference
 * of the root. Parts are few, so the split is plain: by the longest axis, in the middle of the order.
 */
export function joinParts(buffer: ArrayBufferLike, at: number, parts: PartRoot[]): number {
  const floats = new Float32Array(buffer),
    words = new Uint32Array(buffer);
  let next = at;
  const visit = (group: PartRoot[]): number => {
    if (group.length === 1) return group[0]!.root;
    const node = next;
    next += 128;
    const four = halves(group).flatMap((h) => (h.length > 1 ? halves(h) : [h]));
    for (let i = 0; i < 4; i++) {
      const child = four[i];
      const box = child ? boxOf(child) : undefined;
      for (let k = 0; k < 3; k++) {
        floats[(node >> 2) + k * 8 + i] = box ? box[k]! : FAR;
        floats[(node >> 2) + k * 8 + 4 + i] = box ? box[k + 3]! : -FAR;
      }
      words[(node >> 2) + 24 + i] = child ? visit(child) : LEAF;
    }
    return node;
  };
  const full = parts.filter((p) => p.box);
  return full.length ? visit(full) : (parts[0]?.root ?? LEAF);
}

function boxOf(group: PartRoot[]): number[] {
  const out = [FAR, FAR, FAR, -FAR, -FAR, -FAR];
  for (const { box } of group)
    for (let k = 0; k < 3; k++) {
      out[k] = Math.min(out[k]!, box![k]!);
      out[k + 3] = Math.max(out[k + 3]!, box![k + 3]!);
    }
  return out;
}

function halves(group: PartRoot[]): PartRoot[][] {
  const box = boxOf(group);
  const size = [0, 1, 2].map((k) => box[k + 3]! - box[k]!);
  const axis = size.indexOf(Math.max(...size));
  const sorted = [...group].sort((a, b) => a.box![axis]! + a.box![axis + 3]! - b.box![axis]! - b.box![axis + 3]!);
  return [sorted.slice(0, sorted.length >> 1), sorted.slice(sorted.length >> 1)];
}
