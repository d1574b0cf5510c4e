// Renders one scene with one thread, with two, and with two that do not share memory; prints the films' digests as JSON.
import { createHash } from 'node:crypto';
import { dome, compile } from '@plinket/core';
import { panelLight, setupWith } from '../../core/src/testing/setups.ts';
import { render } from './index.ts';
import { nodePool } from './node.ts';

const setup = setupWith({
  key: panelLight(),
  fill: panelLight({ name: 'Fill', place: { azimuth: -60, elevation: 10, distance: 2, aim: [0, 0, 0] } }),
  dome: dome({ name: 'Dome' }),
});
const scene = compile(setup, () => undefined);

async function digests(workers: number, shared: boolean): Promise<string[]> {
  const pool = nodePool({ workers, shared });
  const set = await render(scene, { width: 200, height: 140, samples: 6, seed: 1, bounces: 2 }, { pool });
  pool.close();
  return [...set.films.values()].map((f) =>
    createHash('sha256')
      .update(new Uint8Array(f.film.plane('diffuse')!.buffer))
      .digest('hex'),
  );
}

console.log(JSON.stringify([await digests(1, true), await digests(2, true), await digests(2, false)]));
