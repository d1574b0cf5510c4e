const RADIANS = Math.PI / 360;

/** Quaternion of a turn by degrees about z, then x, then y: y ∘ x ∘ z. */
export function quaternion(x: number, y: number, z: number): [number, number, number, number] {
  const [sx, cx, sy, cy, sz, cz] = [x, y, z].flatMap((d) => [Math.sin(d * RADIANS), Math.cos(d * RADIANS)]) as [
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  return [sx * cy * cz + cx * sy * sz, cx * sy * cz - sx * cy * sz, cx * cy * sz - sx * sy * cz, cx * cy * cz + sx * sy * sz];
}

/** The turn at a time, eased from key to key so that every one is held for a moment. */
export function turnOf(keys: [time: number, x: number, y: number, z: number][], time: number): [number, number, number, number] {
  const next = keys.findIndex((k) => k[0] > time);
  if (next <= 0) {
    const [, x, y, z] = keys[next === 0 ? 0 : keys.length - 1]!;
    return quaternion(x, y, z);
  }
  const a = keys[next - 1]!,
    b = keys[next]!,
    t = (time - a[0]) / (b[0] - a[0]),
    e = t * t * (3 - 2 * t);
  return quaternion(a[1] + (b[1] - a[1]) * e, a[2] + (b[2] - a[2]) * e, a[3] + (b[3] - a[3]) * e);
}
