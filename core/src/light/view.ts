/**
 * How rays see the shape of a source. One object is re-used for many points: nothing is allocated.
 * `sample` draws a point of the shape as seen from x y z and answers 1 / density by solid angle (steradians; 0: not
 * seen); direction (unit) and distance (metres) stand in wx wy wz and d. `meet` answers the distance at which a ray meets
 * the shape (infinity: not at all) and leaves in `met` what `sample` would have answered for that point.
 */
export interface ShapeView {
  wx: number;
  wy: number;
  wz: number;
  d: number;
  met: number;
  sample(x: number, y: number, z: number, u: number, v: number): number;
  meet(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): number;
}
