// Sheets of paper: another reader of SVG (librsvg) draws them, and what lies where is measured in its pixels.
import { spawnSync } from 'node:child_process';
import { describe, expect, it } from '@jest/globals';
import { decode, encode } from 'fast-png';
import { applyPatch, dome, type Setup } from '../../setup/index.ts';
import { panelLight, setupWith } from '../../testing/setups.ts';
import { evenly, GRID_MOST, gridPaper, planPaper, planScale, SHEET, wallPaper } from './index.ts';
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

describe('a contact sheet of frames', () => {
  const FIRST: [number, number, number] = [200, 40, 30],
    LAST: [number, number, number] = [20, 60, 210],
    BETWEEN: [number, number, number] = [90, 90, 90];
  const frames = (count: number, shape: [number, number] = [160, 90]) =>
    Array.from({ length: count }, (_, i) => ({
      name: `NW_${i}`,
      under: `${1001 + i}`,
      picture: plain(...shape, i === 0 ? FIRST : i === count - 1 ? LAST : BETWEEN),
      width: shape[0],
      height: shape[1],
    }));
  it('is read by librsvg: as many as there are, of their shape, in rows, within the margins and as large as they fit', () => {
    for (const count of [2, 7, GRID_MOST]) {
      const page = drawn(gridPaper('Night watch <v001>', frames(count)));
      const [a, z] = [boxOf(page, FIRST), boxOf(page, LAST)];
      expect(a.width / a.height).toBeCloseTo(160 / 90, 1);
      expect(z.width).toBeCloseTo(a.width, 0);
      expect([a.left >= SHEET.margin - 0.2, z.left + z.width <= SHEET.width - SHEET.margin + 0.2]).toEqual([true, true]);
      expect(z.top + z.height).toBeLessThanOrEqual(SHEET.height - SHEET.margin + 0.2);
      // a third of the paper and more is picture
      expect(count * a.width * a.height).toBeGreaterThan((SHEET.width * SHEET.height) / 3);
    }
  });
  it('has another shape in the middle of its cell, and is a sheet also where there is none', () => {
    const page = drawn(gridPaper('Two', [frames(1)[0]!, { ...frames(2, [40, 80])[1]!, picture: plain(40, 80, LAST) }]));
    const [a, z] = [boxOf(page, FIRST), boxOf(page, LAST)];
    expect(z.width / z.height).toBeCloseTo(0.5, 1);
    expect(z.height).toBeCloseTo(a.height, 0);
    drawn(gridPaper('None', []));
  });
  it('takes of many the first, the last and those evenly between', () => {
    expect(evenly([1, 2, 3, 4, 5, 6, 7], 3)).toEqual([1, 4, 7]);
    expect(evenly([1, 2], 3)).toEqual([1, 2]);
    expect(evenly([1, 2, 3], 1)).toEqual([1]);
    expect(
      new Set(
        evenly(
          Array.from({ length: 1000 }, (_, i) => i),
          GRID_MOST,
        ),
      ).size,
    ).toBe(GRID_MOST);
  });
});

describe('the lighting plan', () => {
  const setup: Setup = setupWith(
    {
      // flat above the head: from above it is as large as it is
      top: panelLight({ name: 'Top', width: 1.2, height: 0.8, place: { azimuth: 0, elevation: 90, distance: 1, aim: [0, 0, 0] } }),
      fill: panelLight({ name: 'Fill <b>', on: false, place: { azimuth: -50, elevation: -10, distance: 2, aim: [0, 0, 0] } }),
      dome: dome({ name: 'Room' }),
    },
    { brief: 'a lamp & nothing else' },
  );
  /** Corners of a light in one of the two drawings, mm. */
  const corners = (svg: string, id: string, which: number): [number, number][] => {
    const found = [...svg.matchAll(/<polygon points="([^"]+)"[^>]*data-light="([^"]+)"/g)].filter((m) => m[2] === id);
    return found[which]![1]!.split(' ').map((p) => p.split(',').map(Number) as [number, number]);
  };
  const span = (points: [number, number][], k: 0 | 1) => Math.max(...points.map((p) => p[k])) - Math.min(...points.map((p) => p[k]));

  it('is to scale, in both drawings, and its bar is a metre long (measured in what librsvg draws)', () => {
    const svg = planPaper(setup),
      scale = planScale(setup);
    const plan = corners(svg, 'top', 0);
    expect([span(plan, 0), span(plan, 1)].sort((a, b) => a - b)).toEqual([expect.closeTo(800 / scale, 1), expect.closeTo(1200 / scale, 1)]);
    // from the side it is a line, a metre over the middle of the eyes
    expect(span(corners(svg, 'top', 1), 1)).toBeLessThan(0.2);
    const page = drawn(svg);
    const row = 26 * 10;
    let bar = 0;
    // from its left end on
    while (page.data[(row * page.width + 260 + bar) * page.channels]! < 60) bar++;
    expect(bar / 10).toBeCloseTo(1000 / scale, 0);
  });
  it('takes a larger scale for a small set, and names every light with its numbers, what is off among them', () => {
    const small = applyPatch(setup, {
      camera: { position: [0, 1.6, 0.6], target: [0, 1.6, 0] },
      lights: {
        items: { top: { width: 0.1, height: 0.1, place: { distance: 0.3 } }, fill: { width: 0.1, height: 0.1, place: { distance: 0.4 } } },
      },
    });
    expect(planScale(small)).toBeLessThan(planScale(setup));
    const svg = planPaper(setup, { reading: { pattern: 'Loop', ratio: 4, catchlights: [{ light: 'Top', hour: 12 }] } });
    for (const words of [
      'Fill &lt;b&gt;',
      '50° right, 10° below, 2.00 m',
      '120 × 80 cm',
      '>off<',
      'Room',
      '“a lamp &amp; nothing else”',
      'Ratio 4.0 : 1, 2.0 st',
    ])
      expect(svg).toContain(words);
  });
  it('holds two hundred lights on its page, and says how many it does not list', () => {
    const many = setupWith(Object.fromEntries(Array.from({ length: 200 }, (_, i) => [`l${i}`, panelLight({ name: `Light ${i}` })])));
    const svg = planPaper(many);
    expect(svg).toMatch(/and 1\d\d more/);
    for (const m of svg.matchAll(/<text x="([\d.]+)" y="([\d.]+)"/g)) expect(Number(m[2])).toBeLessThan(SHEET.height - SHEET.margin + 5);
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
