// Where paths stand: surface points of what they met.
import { ALPHA, CHANCE, COLUMNS, DB, DENSITY, DEPTH, DG, DR, EXTRA, F90, FB, FG, FR, GAP, GX, GY, GZ, LOST, LX, LY, MATERIAL, NX, NY, NZ, OX, OY, OZ, PASS, PIXEL, PX, PY, PZ, ROW, TRAVELLED, TRIANGLE, VX, VY, VZ, at, lookUp, move } from './fields';

/**
 * Stands every path that met something on its surface point, closing up the ranks; answers how many there are. Plain
 * opaque surfaces are finished; of others EXTRA is 1, the colour at the vertices stands in `dr dg db`, the hit's weights in
 * `lx ly`, and PASS says whether the surface is met from inside: the host finishes them.
 * `materials`: 16 floats each: base r g b, metallic, roughness, F0 r g b, their mean, specular, plain (1), row, alpha, 1 / what
 * the reflection leaves in the mean.
 */
export function stand(
  batch: usize,
  stride: usize,
  count: i32,
  rays: usize,
  hits: usize,
  positions: usize,
  indices: usize,
  normals: usize,
  colours: usize,
  triangleMaterial: usize,
  materials: usize,
  tableA: usize,
  tableB: usize,
  lastDepth: i32,
): i32 {
  let n = 0;
  for (let i = 0; i < count; i++) {
    const h = hits + (<usize>i << 4);
    const id = load<i32>(h, 12);
    const from = <usize>i << 2,
      to = <usize>n << 2;
    if (id < 0 || load<i32>(at(batch, stride, DEPTH) + from) > lastDepth) continue;
    const r = rays + (<usize>i << 5);
    const t = load<f32>(h),
      u = load<f32>(h, 4),
      v = load<f32>(h, 8),
      w = <f32>1 - u - v;
    const dx = load<f32>(r, 16),
      dy = load<f32>(r, 20),
      dz = load<f32>(r, 24);
    const c = indices + <usize>id * 12;
    const ia = <usize>load<i32>(c) * 12,
      ib = <usize>load<i32>(c, 4) * 12,
      ic = <usize>load<i32>(c, 8) * 12;
    const ax = load<f32>(positions + ia),
      ay = load<f32>(positions + ia, 4),
      az = load<f32>(positions + ia, 8);
    const bx = load<f32>(positions + ib),
      by = load<f32>(positions + ib, 4),
      bz = load<f32>(positions + ib, 8);
    const cx = load<f32>(positions + ic),
      cy = load<f32>(positions + ic, 4),
      cz = load<f32>(positions + ic, 8);
    const ux = bx - ax,
      uy = by - ay,
      uz = bz - az;
    const wx = cx - ax,
      wy = cy - ay,
      wz = cz - az;
    let gx = uy * wz - uz * wy,
      gy = uz * wx - ux * wz,
      gz = ux * wy - uy * wx;
    const inside = gx * dx + gy * dy + gz * dz > 0;
    const gl = (inside ? <f32>-1 : <f32>1) / sqrt(gx * gx + gy * gy + gz * gz);
    gx *= gl;
    gy *= gl;
    gz *= gl;
    const nax = load<f32>(normals + ia),
      nay = load<f32>(normals + ia, 4),
      naz = load<f32>(normals + ia, 8);
    const nbx = load<f32>(normals + ib),
      nby = load<f32>(normals + ib, 4),
      nbz = load<f32>(normals + ib, 8);
    const ncx = load<f32>(normals + ic),
      ncy = load<f32>(normals + ic, 4),
      ncz = load<f32>(normals + ic, 8);
    let nx = nax * w + nbx * u + ncx * v,
      ny = nay * w + nby * u + ncy * v,
      nz = naz * w + nbz * u + ncz * v;
    // a shading normal that turns away from its own triangle is not believed
    const flip: f32 = nx * gx + ny * gy + nz * gz < 0 ? -1 : 1;
    const nl = flip / sqrt(nx * nx + ny * ny + nz * nz);
    nx *= nl;
    ny *= nl;
    nz *= nl;
    // positions are taken from the triangle, which is more exact than along the ray
    const x = ax * w + bx * u + cx * v,
      y = ay * w + by * u + cy * v,
      z = az * w + bz * u + cz * v;
    const gap = <f32>2e-5 + <f32>5e-7 * max(abs(x), max(abs(y), abs(z)));
    const k = <i32>load<u16>(triangleMaterial + (<usize>id << 1));
    const m = materials + (<usize>k << 6);
    const red = load<f32>(m) * (load<f32>(colours + ia) * w + load<f32>(colours + ib) * u + load<f32>(colours + ic) * v),
      green = load<f32>(m, 4) * (load<f32>(colours + ia, 4) * w + load<f32>(colours + ib, 4) * u + load<f32>(colours + ic, 4) * v),
      blue = load<f32>(m, 8) * (load<f32>(colours + ia, 8) * w + load<f32>(colours + ib, 8) * u + load<f32>(colours + ic, 8) * v);
    if (load<f32>(m, 40) != 0) {
      if (!(nx * dx + ny * dy + nz * dz < <f32>-1e-3)) {
        nx = gx;
        ny = gy;
        nz = gz;
      }
      const cos = min(<f32>1, -(nx * dx + ny * dy + nz * dz));
      const metallic = load<f32>(m, 12),
        solid = <f32>1 - metallic,
        specular = load<f32>(m, 36),
        f0Mean = load<f32>(m, 32);
      const fr = load<f32>(m, 20) * solid + red * metallic,
        fg = load<f32>(m, 24) * solid + green * metallic,
        fb = load<f32>(m, 28) * solid + blue * metallic;
      const f90 = specular * solid + metallic;
      const roughness = min(<f32>1, max(<f32>0, load<f32>(m, 16))) * 31;
      const j = min(<i32>roughness, 30),
        f = roughness - <f32>j;
      const ea0 = lookUp(tableA, j, cos),
        eb0 = lookUp(tableB, j, cos);
      const ea = ea0 + (lookUp(tableA, j + 1, cos) - ea0) * f,
        eb = eb0 + (lookUp(tableB, j + 1, cos) - eb0) * f;
      const leaves = (<f32>1 - f0Mean * ea - specular * eb) * load<f32>(m, 52) * solid;
      store<f32>(at(batch, stride, LOST) + to, <f32>1 / max(<f32>0.05, ea + eb) - <f32>1);
      store<f32>(at(batch, stride, DR) + to, red * leaves);
      store<f32>(at(batch, stride, DG) + to, green * leaves);
      store<f32>(at(batch, stride, DB) + to, blue * leaves);
      store<f32>(at(batch, stride, FR) + to, fr);
      store<f32>(at(batch, stride, FG) + to, fg);
      store<f32>(at(batch, stride, FB) + to, fb);
      store<f32>(at(batch, stride, F90) + to, f90);
      store<f32>(at(batch, stride, ALPHA) + to, load<f32>(m, 48));
      store<i32>(at(batch, stride, ROW) + to, <i32>load<f32>(m, 44) * COLUMNS);
      const sharp = (fr + fg + fb) * ea + <f32>3 * f90 * eb,
        broad = (red + green + blue) * solid;
      store<f32>(
        at(batch, stride, CHANCE) + to,
        broad <= 0 ? <f32>1 : min(<f32>0.9, max(<f32>0.1, sharp / (sharp + broad))),
      );
      store<i32>(at(batch, stride, PASS) + to, 0);
      store<i32>(at(batch, stride, EXTRA) + to, 0);
    } else {
      store<f32>(at(batch, stride, DR) + to, red);
      store<f32>(at(batch, stride, DG) + to, green);
      store<f32>(at(batch, stride, DB) + to, blue);
      store<f32>(at(batch, stride, LX) + to, u);
      store<f32>(at(batch, stride, LY) + to, v);
      store<i32>(at(batch, stride, PASS) + to, inside ? 1 : 0);
      store<i32>(at(batch, stride, EXTRA) + to, 1);
    }
    store<f32>(at(batch, stride, PX) + to, x);
    store<f32>(at(batch, stride, PY) + to, y);
    store<f32>(at(batch, stride, PZ) + to, z);
    store<f32>(at(batch, stride, GX) + to, gx);
    store<f32>(at(batch, stride, GY) + to, gy);
    store<f32>(at(batch, stride, GZ) + to, gz);
    store<f32>(at(batch, stride, NX) + to, nx);
    store<f32>(at(batch, stride, NY) + to, ny);
    store<f32>(at(batch, stride, NZ) + to, nz);
    store<f32>(at(batch, stride, VX) + to, -dx);
    store<f32>(at(batch, stride, VY) + to, -dy);
    store<f32>(at(batch, stride, VZ) + to, -dz);
    store<f32>(at(batch, stride, GAP) + to, gap);
    store<i32>(at(batch, stride, TRIANGLE) + to, id);
    store<i32>(at(batch, stride, MATERIAL) + to, k);
    // Hanika 2021, "Hacking the Shadow Terminator"
    const sa = min(<f32>0, ((x - ax) * nax + (y - ay) * nay + (z - az) * naz) * flip) * flip * w,
      sb = min(<f32>0, ((x - bx) * nbx + (y - by) * nby + (z - bz) * nbz) * flip) * flip * u,
      sc = min(<f32>0, ((x - cx) * ncx + (y - cy) * ncy + (z - cz) * ncz) * flip) * flip * v;
    store<f32>(at(batch, stride, OX) + to, x - (sa * nax + sb * nbx + sc * ncx) + gx * gap);
    store<f32>(at(batch, stride, OY) + to, y - (sa * nay + sb * nby + sc * ncy) + gy * gap);
    store<f32>(at(batch, stride, OZ) + to, z - (sa * naz + sb * nbz + sc * ncz) + gz * gap);
    if (from != to) for (let f = PIXEL; f <= DENSITY; f++) move(batch, stride, f, from, to);
    store<f32>(at(batch, stride, TRAVELLED) + to, load<f32>(at(batch, stride, TRAVELLED) + from) + t);
    n++;
  }
  return n;
}
