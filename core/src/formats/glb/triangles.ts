import type { Document, Primitive } from '@gltf-transform/core';
import { drop } from './primitives.ts';

/** How a primitive's vertices are joined (glTF 2.0, section 3.7.2.1). */
export const TRIANGLES = 4,
  STRIP = 5,
  FAN = 6;

/** Corners of a strip's or a fan's triangles, all wound alike; those that have no area by their corners are left out. */
export function trianglesOf(mode: number, corners: ArrayLike<number>): Uint32Array<ArrayBuffer> {
  const out: number[] = [];
  for (let i = 0; i + 2 < corners.length; i++) {
    const turned = mode === STRIP && i % 2 === 1;
    const a = corners[mode === FAN ? 0 : turned ? i + 1 : i]!,
      b = corners[turned ? i : i + 1]!,
      c = corners[i + 2]!;
    if (a !== b && b !== c && c !== a) out.push(a, b, c);
  }
  return Uint32Array.from(out);
}

/** Makes plain triangles of a file's strips and fans, so that whoever reads on finds nothing else. */
export function listTriangles(document: Document): void {
  const root = document.getRoot();
  const listed = (p: Primitive): void => {
    const mode = p.getMode();
    if (mode !== STRIP && mode !== FAN) return;
    const old = p.getIndices(),
      corners = old?.getArray() ?? Uint32Array.from({ length: p.getAttribute('POSITION')?.getCount() ?? 0 }, (_, i) => i);
    const buffer = root.listBuffers()[0] ?? document.createBuffer();
    p.setIndices(document.createAccessor().setType('SCALAR').setArray(trianglesOf(mode, corners)).setBuffer(buffer)).setMode(TRIANGLES);
    drop(old);
  };
  for (const mesh of root.listMeshes()) mesh.listPrimitives().forEach(listed);
}
