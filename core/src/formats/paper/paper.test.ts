// Sheets of paper: another reader of SVG (librsvg) draws them, and what lies where is measured in its pixels.
import { spawnSync } from 'node:child_process';
import { describe, expect, it } from '@jest/globals';
import { decode, encode } from 'fast-png';
import { SHEET, wallPaper } from './index.ts';
import { escaped, wrapped } from './svg.ts';

/** A picture of one colour, as a data URL. */
const plain = (width: number, height: number, rgb: [number, number, number]): string =>
  `data:image/png;base64,${Buffer.from(
    encode({ width, height, channels: 3, data: Uint8Array.from({ length: width * height * 3 }, (_, i) => rgb[i % 3]!) }),
  ).toString('base64')}`;

/** What librsvg draws, ten pixels to the mm. */
function drawn(svg: string) {
  const { stdout, stderr, status } = spawnSync('rsvg-convert', ['--width', String(SHEET.width * 10), '--format', 'png'], {
    input: svg,
    maxBuffer: 1 << 28,
  });
  expect([status, stderr.toString()]).toEqual([0, '']);
  return decode(stdout);
}
/** The box of a colour, mm. */
function boxOf({ width, data, channels }: ReturnType<typeof decode>, [r, g, b]: [number, number, number]) {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let p = 0; p * channels < data.length; p++) {
    if (data[p * channels] !== r || data[p * channels + 1] !== g || data[p * channels + 2] !== b) continue;
    const x = p % width,
      y = Math.floor(p / width);
    [left, top, right, bottom] = [Math.min(left, x), Math.min(top, y), Math.max(right, x + 1), Math.max(bottom, y + 1)];
  }
  return { left: left / 10, top: top / 10, width: (right - left) / 10, height: (bottom - top) / 10 };
}

describe('the wall on paper', () => {
  const RED: [number, number, number] = [200, 40, 30],
    BLUE: [number, number, number] = [20, 60, 210];
  const proofs = [
    { name: 'First <look> & “all”', under: 'The keeper', picture: plain(40, 50, RED), width: 40, height: 50 },
    { name: 'Second', under: 'The keeper', picture: plain(80, 45, BLUE), width: 80, height: 45 },
  ];
  const facts = [{ label: 'Ratio', values: ['4.0 : 1, 2⅔ st', '2.0 : 1'], differs: [false, true] }];
  it('is read by librsvg: pictures keep their shape, stand in their columns and within the margins', () => {
    const page = drawn(wallPaper('Two looks', proofs, facts));
    expect([page.width, page.height]).toEqual([2970, 2100]);
    const red = boxOf(page, RED),
      blue = boxOf(page, BLUE);
    expect(red.width / red.height).toBeCloseTo(40 / 50, 1);
    expect(blue.width / blue.height).toBeCloseTo(80 / 45, 1);
    expect(red.left + red.width).toBeLessThan(blue.left);
    expect(blue.left + blue.width).toBeLessThanOrEqual(SHEET.width - SHEET.margin);
    expect(red.top).toBeCloseTo(blue.top, 1);
    expect(red.height).toBeGreaterThan(60);
  });
  it('takes nine, with long words that are cut to their columns', () => {
    const nine = Array.from({ length: 9 }, (_, i) => ({ ...proofs[i % 2]!, name: 'a name that goes on '.repeat(5) }));
    const long = {
      label: 'Against the first',
      values: Array<string>(9).fill('key: round to 20° · rim: +⅔ stop · '.repeat(9)),
      differs: Array<boolean>(9).fill(true),
    };
    const page = drawn(wallPaper('Nine looks', nine, [long]));
    expect(boxOf(page, RED).left).toBeGreaterThan(SHEET.margin);
  });
});

describe('words on paper', () => {
  it('are as XML wants them, with fractions that the fonts have', () => {
    expect(escaped('a < b & "c" \u0001+1⅓')).toBe('a &lt; b &amp; &quot;c&quot; +1 1/3');
  });
  it('are wrapped between words, cut within those that are too long, and end in an ellipsis', () => {
    expect(wrapped('one two three', 20, 2)).toEqual(['one two three']);
    const lines = wrapped('alpha beta gamma delta epsilon', 12, 2, 2);
    expect(lines).toHaveLength(2);
    expect(lines[1]).toMatch(/…$/);
    expect(wrapped('x'.repeat(100), 10.4, 2).every((l) => l.length <= 10)).toBe(true);
  });
});
