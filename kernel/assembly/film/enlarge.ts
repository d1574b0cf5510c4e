// A small picture enlarged bilinearly and added to a large one.

/** One small row of r g b, as wide as the large one. */
function widen(to: usize, from: usize, width: i32, small: i32): void {
  const scale = <f32>small / <f32>width;
  for (let x = 0; x < width; x++) {
    const at = min(<f32>(small - 1), max(<f32>0, (<f32>x + 0.5) * scale - 0.5)),
      first = <i32>at,
      second = min(small - 1, first + 1);
    const share = at - <f32>first;
    const a = from + <usize>(first * 12),
      b = from + <usize>(second * 12);
    for (let c: usize = 0; c < 12; c += 4) store<f32>(to + c, load<f32>(a + c) + (load<f32>(b + c) - load<f32>(a + c)) * share);
    to += 12;
  }
}

/**
 * out += light · ratios + gloss, both enlarged from `smallWidth` × `smallHeight` to `width` × `height`, r g b interleaved; without
 * `ratios` (0) they are 1. `rows` has room for four rows of the large picture.
 */
export function enlarge(
  out: usize,
  width: i32,
  height: i32,
  light: usize,
  gloss: usize,
  smallWidth: i32,
  smallHeight: i32,
  ratios: usize,
  rows: usize,
): void {
  const floats = width * 3,
    bytes = <usize>floats << 2,
    small = <usize>(smallWidth * 12);
  const scale = <f32>smallHeight / <f32>height;
  let lightA = rows,
    lightB = rows + bytes,
    glossA = rows + 2 * bytes,
    glossB = rows + 3 * bytes;
  let above = -1,
    below = -1;
  for (let y = 0; y < height; y++) {
    const at = min(<f32>(smallHeight - 1), max(<f32>0, (<f32>y + 0.5) * scale - 0.5)),
      first = <i32>at,
      second = min(smallHeight - 1, first + 1);
    if (first == below) {
      // what was below is above now
      let swap = lightA;
      lightA = lightB;
      lightB = swap;
      swap = glossA;
      glossA = glossB;
      glossB = swap;
      above = below;
      below = -1;
    }
    if (first != above) {
      widen(lightA, light + <usize>first * small, width, smallWidth);
      widen(glossA, gloss + <usize>first * small, width, smallWidth);
      above = first;
    }
    if (second != below) {
      widen(lightB, light + <usize>second * small, width, smallWidth);
      widen(glossB, gloss + <usize>second * small, width, smallWidth);
      below = second;
    }
    const share = at - <f32>first,
      share4 = f32x4.splat(share);
    const whole = floats & ~3;
    for (let i = 0; i < whole; i += 4) {
      const o = <usize>i << 2;
      let l = v128.load(lightA + o);
      l = f32x4.add(l, f32x4.mul(f32x4.sub(v128.load(lightB + o), l), share4));
      if (ratios) l = f32x4.mul(l, v128.load(ratios + o));
      let g = v128.load(glossA + o);
      g = f32x4.add(g, f32x4.mul(f32x4.sub(v128.load(glossB + o), g), share4));
      v128.store(out + o, f32x4.add(f32x4.add(v128.load(out + o), l), g));
    }
    for (let i = whole; i < floats; i++) {
      const o = <usize>i << 2;
      let l = load<f32>(lightA + o) + (load<f32>(lightB + o) - load<f32>(lightA + o)) * share;
      if (ratios) l *= load<f32>(ratios + o);
      const g = load<f32>(glossA + o) + (load<f32>(glossB + o) - load<f32>(glossA + o)) * share;
      store<f32>(out + o, load<f32>(out + o) + l + g);
    }
    out += bytes;
    if (ratios) ratios += bytes;
  }
}
