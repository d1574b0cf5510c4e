import { FILE_LIMITS } from '../math/index.ts';

/** A colour look-up cube: display r g b 0…1 to display r g b, red fastest. */
export interface Cube {
  key: string;
  title: string;
  size: number;
  values: Float32Array;
}

/** A .cube file that cannot be used; the message names the line. */
export class CubeError extends Error {
  constructor(message: string) {
    super(message);
    this.name = 'CubeError';
  }
}

/**
 * Reads a .cube file (the published "Cube LUT Specification 1.0"): 3D tables; a domain other than 0…1 is scaled away.
 * @throws CubeError naming the line and the reason.
 */
export function readCube(text: string, key = ''): Cube {
  let size = 0,
    title = '';
  let low = [0, 0, 0],
    high = [1, 1, 1];
  let values: Float32Array | undefined,
    at = 0;
  const lines = text.split(/\r?\n/);
  lines.forEach((raw, i) => {
    const line = raw.trim();
    const fail = (reason: string): never => {
      throw new CubeError(`Line ${i + 1}: ${reason}`);
    };
    if (!line || line.startsWith('#')) return;
    const [word = '', ...rest] = line.split(/\s+/);
    const numbers = rest.map(Number);
    switch (word) {
      case 'TITLE':
        title = line.slice(5).trim().replace(/^"|"$/g, '');
        return;
      case 'LUT_1D_SIZE':
        return fail('it is a one-dimensional table; a 3D table is needed.');
      case 'LUT_3D_SIZE':
        size = numbers[0] ?? NaN;
        if (!Number.isInteger(size) || size < 2 || size > FILE_LIMITS.cubeSize)
          fail(`LUT_3D_SIZE must be from 2 to ${FILE_LIMITS.cubeSize}.`);
        values = new Float32Array(size ** 3 * 3);
        return;
      case 'DOMAIN_MIN':
      case 'DOMAIN_MAX':
        if (numbers.length !== 3 || numbers.some((v) => !Number.isFinite(v))) fail(`${word} needs three numbers.`);
        if (word === 'DOMAIN_MIN') low = numbers;
        else high = numbers;
        return;
    }
    if (/^[A-Z_]/.test(word)) return;
    const rgb = [word, ...rest].map(Number);
    if (rgb.length !== 3 || rgb.some((v) => !Number.isFinite(v))) fail(`“${line.slice(0, 40)}” is not three numbers.`);
    if (rgb.some((v) => Math.abs(v) > FILE_LIMITS.cubeValue))
      fail(`“${line.slice(0, 40)}” is no colour: values reach ${FILE_LIMITS.cubeValue} at most.`);
    if (!values) fail('numbers come before LUT_3D_SIZE.');
    if (at + 3 > values!.length) fail(`there are more than ${size}³ entries.`);
    values!.set(rgb, at);
    at += 3;
  });
  if (!values) throw new CubeError('LUT_3D_SIZE is missing.');
  if (at < values.length) throw new CubeError(`There are ${at / 3} entries where ${size}³ = ${size ** 3} are needed.`);
  if (high.some((h, k) => !(h > low[k]!))) throw new CubeError('DOMAIN_MAX must be above DOMAIN_MIN.');
  if (low.some((v) => v !== 0) || high.some((v) => v !== 1)) values = redomain(values, size, low, high);
  return { key, title, size, values };
}

/** The same map over 0…1: what lies outside its domain is held at the edge. */
function redomain(values: Float32Array, size: number, low: number[], high: number[]): Float32Array {
  const out = new Float32Array(values.length);
  const place = (i: number, k: number) => Math.min(1, Math.max(0, (i / (size - 1) - low[k]!) / (high[k]! - low[k]!))) * (size - 1);
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++) {
        const p = [place(r, 0), place(g, 1), place(b, 2)],
          i = p.map((v) => Math.min(size - 2, Math.floor(v))),
          f = p.map((v, k) => v - i[k]!);
        for (let c = 0; c < 3; c++) {
          let sum = 0;
          for (let corner = 0; corner < 8; corner++) {
            const d = [corner & 1, (corner >> 1) & 1, corner >> 2];
            const w = d.reduce((m, on, k) => m * (on ? f[k]! : 1 - f[k]!), 1);
            sum += w * values[(((i[2]! + d[2]!) * size + i[1]! + d[1]!) * size + i[0]! + d[0]!) * 3 + c]!;
          }
          out[((b * size + g) * size + r) * 3 + c] = sum;
        }
      }
  return out;
}
