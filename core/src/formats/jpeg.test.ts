import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { encode } from 'jpeg-js';
import { fastJpeg, jpegSize, slowJpeg, type JpegDecoder } from './jpeg.ts';

const wasm = readFileSync(createRequire(import.meta.url).resolve('@cornerstonejs/codec-libjpeg-turbo-8bit/decodewasm'));
/** A picture with soft slopes and an edge, as a JPEG. */
function picture(width: number, height: number, quality = 90): Uint8Array {
  const data = new Uint8Array(width * height * 4);
  for (let i = 0; i < width * height; i++) {
    const x = i % width,
      y = (i / width) | 0;
    data.set([(x * 255) / width, (y * 255) / height, x > width / 2 ? 220 : 30, 255], i * 4);
  }
  return Uint8Array.from(encode({ data, width, height }, quality).data);
}

describe('JPEG', () => {
  let fast: JpegDecoder;
  beforeAll(async () => {
    fast = await fastJpeg(wasm);
  });
  it.each([
    [64, 48],
    [33, 17],
    [1, 1],
  ])('of %i × %i is by libjpeg-turbo what it is by jpeg-js, but for rounding', (width, height) => {
    const bytes = picture(width, height),
      a = fast(bytes),
      b = slowJpeg(bytes);
    expect([a.width, a.height, a.data.length]).toEqual([width, height, width * height * 4]);
    a.data.forEach((v, i) => expect(Math.abs(v - b.data[i]!)).toBeLessThanOrEqual(6));
    expect(a.data[3]).toBe(255);
  });
  it('says its size before it is unpacked, and none where there is no frame', () => {
    expect(jpegSize(picture(640, 21))).toEqual({ width: 640, height: 21, components: 3 });
    expect(jpegSize(Uint8Array.of(0xff, 0xd8, 0xff, 0xd9))).toBeUndefined();
    expect(jpegSize(new Uint8Array(4))).toBeUndefined();
    // a stretch of no length would be walked for ever
    expect(jpegSize(Uint8Array.from({ length: 64 }, (_, i) => (i < 2 ? [0xff, 0xd8][i]! : i % 2 ? 0xe0 : 0xff)))).toBeUndefined();
  });
  it('that is spoilt is refused with a reason, and the next is read all the same', () => {
    const bytes = picture(64, 48),
      cut = bytes.slice(0, 40);
    expect(() => fast(cut)).toThrow();
    expect(() => fast(Uint8Array.of(1, 2, 3))).toThrow();
    expect(fast(bytes).width).toBe(64);
  });
  it('of more pixels than are read is refused before memory is taken', () => {
    const bytes = picture(16, 16),
      at = bytes.findIndex((v, i) => v === 0xff && bytes[i + 1] === 0xc0);
    bytes.set([0xff, 0xf0, 0xff, 0xf0], at + 5);
    expect(jpegSize(bytes)).toMatchObject({ width: 65520, height: 65520 });
    expect(() => fast(bytes)).toThrow(/exceed|resolution|memory/i);
  });
});
