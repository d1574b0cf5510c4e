// What hangs at vertices and cannot be: mended, and said.
import { smoothNormals } from '../../geometry/index.ts';
import type { ImportWarning } from '../../scene/index.ts';

/** Normals that are no directions are made anew from the triangles, in place. */
export function mendNormals(
  normals: Float32Array,
  positions: Float32Array,
  indices: Uint32Array,
  name: string,
  warnings: ImportWarning[],
): void {
  let made: Float32Array | undefined,
    count = 0;
  for (let i = 0; i < normals.length; i += 3) {
    const length = Math.hypot(normals[i]!, normals[i + 1]!, normals[i + 2]!);
    if (length > 0.5 && length < 2) continue;
    made ??= smoothNormals(positions, indices);
    normals.set(made.subarray(i, i + 3), i);
    count++;
  }
  if (count)
    warnings.push({
      code: 'mended',
      message: `${name}: ${count} ${count === 1 ? 'normal was' : 'normals were'} no direction; smooth ones were made.`,
    });
}

/** Shares that are none, such as of red, green and blue, are kept from 0 to 1, in place. */
export function mendShares(values: Float32Array, name: string, warnings: ImportWarning[]): void {
  let count = 0;
  for (let i = 0; i < values.length; i++) {
    const v = values[i]!;
    if (v >= 0 && v <= 1) continue;
    // what is just beyond comes from rounding
    if (!(v > -1e-3 && v < 1.001)) count++;
    values[i] = v > 1 || Number.isNaN(v) ? 1 : 0;
  }
  if (count)
    warnings.push({
      code: 'mended',
      message: `${name}: ${count} ${count === 1 ? 'value' : 'values'} of its colours lay beyond 0 to 1, or were no number.`,
    });
}

/** Coordinates of pictures that are no numbers are 0, in place. */
export function mendCoordinates(values: Float32Array, name: string, warnings: ImportWarning[]): void {
  let count = 0;
  for (let i = 0; i < values.length; i++) {
    if (Number.isFinite(values[i])) continue;
    values[i] = 0;
    count++;
  }
  if (count)
    warnings.push({ code: 'mended', message: `${name}: ${count} of the numbers by which its pictures lie were none; 0 stands in.` });
}
