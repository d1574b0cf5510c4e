// The demo's keeper under ten lights at 1920 × 1080, traced once and kept in .cache as a finished picture's file.
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { applyPatch, collected, compile, filmsFile, orderOf, PictureMaker, type ExrChannel, type Setup } from '@plinket/core';
import { render, smoothFrame } from '@plinket/engine';
import { loadFilmMath, nodePool } from '@plinket/engine/node';
import { writeExrFile } from '@plinket/lab';
import { demoScene } from './scene.ts';

export const WIDTH = 1920,
  HEIGHT = 1080,
  LIGHTS = 10;
const SAMPLES = 4;
const file = fileURLToPath(new URL('../../.cache/ten-lights.exr', import.meta.url));

/** The demo's lights, and again as many from the other side. */
function tenLights(setup: Setup): Setup {
  const lights = orderOf(setup.lights).map((id) => setup.lights.items[id]!);
  const more = Array.from({ length: LIGHTS }, (_, i) => {
    const light = lights[i % lights.length]!;
    if (i < lights.length || !('place' in light)) return light;
    return { ...light, place: { ...light.place, azimuth: ((7 * i - light.place.azimuth + 540) % 360) - 180 }, name: `${light.name} ${i}` };
  });
  return applyPatch(
    { ...setup, lights: collected(Object.fromEntries(more.map((light, i) => [`light-${i}`, light]))) },
    {
      camera: { aspect: WIDTH / HEIGHT },
      look: { smooth: 1 },
    },
  );
}

/** Traces the picture; answers what a file of it holds. */
export async function traceTenLights(): Promise<{ channels: ExrChannel[]; text: Record<string, string>; setup: Setup }> {
  const { setup: demo, asset } = await demoScene(),
    setup = tenLights(demo);
  console.log(`Tracing ${WIDTH} × ${HEIGHT} under ${LIGHTS} lights, ${SAMPLES} samples …`);
  const pool = nodePool();
  const set = await render(
    compile(setup, () => asset),
    { width: WIDTH, height: HEIGHT, samples: SAMPLES, seed: 1, bounces: 2 },
    { pool, math: loadFilmMath() },
  );
  pool.close();
  smoothFrame(set, SAMPLES);
  const maker = new PictureMaker(set.math, { gobo: () => undefined, cube: () => undefined });
  const shown = { setup: { ...setup, plate: { ...setup.plate, kind: 'none' as const } } };
  const linear = Float32Array.from(maker.linear(set, shown).linear);
  const made = filmsFile(set, setup, { linear, alpha: maker.alpha(set, shown), passes: [] });
  set.close();
  return { ...made, setup };
}

/** The picture's file, traced where it is not there yet. */
export async function tenLightsFile(made?: Awaited<ReturnType<typeof traceTenLights>>): Promise<{ bytes: Uint8Array; file: string }> {
  if (made || !existsSync(file)) {
    mkdirSync(fileURLToPath(new URL('../../.cache/', import.meta.url)), { recursive: true });
    await writeExrFile(file, { width: WIDTH, height: HEIGHT, ...(made ?? (await traceTenLights())) });
  }
  return { bytes: readFileSync(file), file };
}
