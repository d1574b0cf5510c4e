// What lies behind a picture, and the shadows that fall on it: pixel by pixel, r g b interleaved.

// @ts-ignore: decorator
@inline
function luminance(at: usize): f32 {
  return <f32>0.2126 * load<f32>(at) + <f32>0.7152 * load<f32>(at, 4) + <f32>0.0722 * load<f32>(at, 8);
}

/** linear += (1 − covered) · plate. */
export function layBehind(linear: usize, covered: usize, plate: usize, pixels: i32): void {
  for (let p = 0; p < pixels; p++) {
    const open: f32 = 1 - load<f32>(covered);
    if (open > 0) {
      store<f32>(linear, load<f32>(linear) + open * load<f32>(plate));
      store<f32>(linear, load<f32>(linear, 4) + open * load<f32>(plate, 4), 4);
      store<f32>(linear, load<f32>(linear, 8) + open * load<f32>(plate, 8), 8);
    }
    linear += 12;
    plate += 12;
    covered += 4;
  }
}

/**
 * shadow = share · (1 − lit) · density and covered = figure + shadow where a catcher is seen; lit is what arrives with what casts shadows over what would
 * without, by luminance, and with `openness` (r g b, weighed by the share; 0: none) less by contact · (1 − openness).
 */
export function catchShadow(
  shadow: usize,
  covered: usize,
  share: usize,
  figure: usize,
  arrives: usize,
  open: usize,
  openness: usize,
  pixels: i32,
  density: f32,
  contact: f32,
): void {
  for (let p = 0; p < pixels; p++) {
    const o = <usize>p << 2,
      o3 = <usize>p * 12;
    const c = load<f32>(share + o);
    if (!(c > 0)) continue;
    const without = luminance(open + o3),
      reaches = luminance(arrives + o3);
    let lit: f32 = reaches < without ? reaches / without : 1;
    if (openness != 0) {
      const closed: f32 = 1 - load<f32>(openness + o3) / c;
      if (closed > 0) lit *= 1 - contact * (closed < 1 ? closed : 1);
    }
    const s: f32 = c * (1 - lit) * density;
    store<f32>(shadow + o, s);
    store<f32>(covered + o, load<f32>(figure + o) + s);
  }
}
