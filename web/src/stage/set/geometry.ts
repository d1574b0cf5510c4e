import type { MeshData } from '@plinket/core';
import { useEffect, useMemo } from 'react';
import { BufferAttribute, BufferGeometry } from 'three';

function geometryOf({ positions, normals, indices }: MeshData, colours?: Float32Array): BufferGeometry {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(positions, 3));
  geometry.setAttribute('normal', new BufferAttribute(normals, 3));
  if (colours) geometry.setAttribute('color', new BufferAttribute(colours, 3));
  geometry.setIndex(new BufferAttribute(indices, 1));
  return geometry;
}

/** A geometry that lives as long as what it was made of is shown. */
export function useGeometry(mesh: MeshData | undefined, colours?: Float32Array): BufferGeometry | undefined {
  const geometry = useMemo(() => mesh && geometryOf(mesh, colours), [mesh, colours]);
  useEffect(() => () => geometry?.dispose(), [geometry]);
  return geometry;
}
