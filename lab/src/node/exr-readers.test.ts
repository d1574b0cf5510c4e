// A finished picture's file, read by others: OpenEXR's own exrheader says what is in it, OpenImageIO's oiiotool adds its lights up (both Debian's).
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from '@jest/globals';
import { plainFilmMath } from '@plinket/kernel';
import { applyPatch, Film, filmsFile, Guides, orderOf, PictureMaker, setupGains, type Patch, type Setup } from '@plinket/core';
import { panelLight, setupWith } from '../../../core/src/testing/setups.ts';
import { writeExrFile } from './exr-file.ts';

const W = 40,
  H = 37;
const folder = mkdtempSync(join(tmpdir(), 'plinket-readers-')),
  file = join(folder, 'films.exr');
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const setup: Setup = applyPatch(setupWith({ key: panelLight({ kelvin: 3200 }), rim: panelLight({ stops: -2.5, kelvin: 9000 }) }), {
  look: { smooth: 0 },
  // as bright as pictures are: 0.001 is little of it
  camera: { ev: 1 },
} as Patch);
let levels: Record<string, number>;

/** Lehmer's generator: the same numbers in every run. */
function* numbers(): Generator<number> {
  for (let state = 7; ; state = (state * 48271) % 2147483647) yield state / 2147483647;
}

beforeAll(async () => {
  const random = numbers();
  const films = new Map(
    orderOf(setup.lights).map((id) => {
      const film = new Film(W, H, { settled: true, haze: true });
      film.planes.forEach((p) => p.forEach((_, i) => (p[i] = random.next().value * 3e-4)));
      return [id, film] as const;
    }),
  );
  const guides = new Guides(W, H, true);
  guides.mattes!.objects.fill(1);
  guides.mattes!.materials.fill(1);
  guides.alpha.fill(1);
  guides.settle();
  const source = { width: W, height: H, guides, shown: (id: string) => (films.has(id) ? { film: films.get(id)! } : undefined) };
  const maker = new PictureMaker(plainFilmMath(), { gobo: () => undefined, cube: () => undefined });
  const { linear } = maker.linear(source, { setup, bare: true });
  const made = filmsFile(source, setup, {
    linear,
    alpha: guides.alpha,
    passes: ['depth', 'position', 'normal', 'groups', 'cryptomatte'],
    names: { objects: ['stage/backdrop'], materials: ['paper'] },
  });
  levels = JSON.parse(made.text['plinketLevels']!) as Record<string, number>;
  await writeExrFile(file, { width: W, height: H, ...made });
});

const oiio = (...args: string[]) => spawnSync('oiiotool', args, { encoding: 'utf8' });

it('exrheader finds every channel with its type, the setup, and ZIP', () => {
  const { stdout, status } = spawnSync('exrheader', [file], { encoding: 'utf8' });
  expect(status).toBe(0);
  expect(stdout).toMatch(/compression \(type compression\): zip, multi-scanline blocks/);
  for (const line of [
    'A, 16-bit floating-point',
    'R, 16-bit floating-point',
    'depth.Z, 32-bit floating-point',
    'CryptoObject00.R, 32-bit floating-point',
    'CryptoMaterial02.A, 32-bit floating-point',
    'position.X, 32-bit',
    'normal.Y, 16-bit',
  ])
    expect(stdout).toContain(line);
  for (const id of orderOf(setup.lights))
    for (const layer of ['diffuse', 'specular', 'volume']) expect(stdout).toContain(`${id}.${layer}.G, 16-bit`);
  expect(stdout).toContain('plinketSetup (type string)');
  expect(stdout).toMatch(/cryptomatte\/[0-9a-f]{7}\/manifest \(type string\): "\{"stage\/backdrop":"[0-9a-f]{8}"\}"/);
});

it('oiiotool: the sum of all layers at their gains over their levels is the picture, within 0.001', () => {
  const gains = setupGains(setup);
  const terms = orderOf(setup.lights).flatMap((id) =>
    (['diffuse', 'specular', 'volume'] as const).map((layer) => {
      const by = gains[id]![layer].map((g) => g / levels[id]!).join(',');
      return [file, '--ch', ['R', 'G', 'B'].map((c) => `${id}.${layer}.${c}`).join(','), '--mulc', by, '--chnames', 'R,G,B'];
    }),
  );
  const sum = terms.flatMap((term, i) => (i ? [...term, '--add'] : term));
  const { stdout, status } = oiio(...sum, file, '--ch', 'R,G,B', '--fail', '0.001', '--diff');
  expect([stdout, status]).toEqual([expect.stringContaining('0 pixels (0%) over 0.001'), 0]);
  // and it can fail: a light at half a stop more is no such picture
  const wrong = [...sum];
  wrong[wrong.indexOf('--mulc') + 1] = gains[orderOf(setup.lights)[0]!]!.diffuse.map(
    (g) => (1.4 * g) / levels[orderOf(setup.lights)[0]!]!,
  ).join(',');
  expect(oiio(...wrong, file, '--ch', 'R,G,B', '--fail', '0.001', '--diff').status).not.toBe(0);
});
