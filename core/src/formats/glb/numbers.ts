import { MathUtils, type Accessor, type TypedArray } from '@gltf-transform/core';

/**
 * All numbers of an accessor, its elements one after the other; integers that stand for shares as those shares. An element asked for by
 * itself costs many times as much.
 */
export function numbersOf(accessor: Accessor): { array: TypedArray | Float64Array; size: number } {
  const size = accessor.getElementSize(),
    array = accessor.getArray() ?? new Float32Array(0);
  if (!accessor.getNormalized()) return { array, size };
  const type = accessor.getComponentType(),
    out = new Float64Array(array.length);
  for (let i = 0; i < out.length; i++) out[i] = MathUtils.decodeNormalizedInt(array[i]!, type);
  return { array: out, size };
}
