import { compile, probe, Tracer } from '@plinket/core';
import { attachKernel, buildAccel, plainKernel } from '@plinket/kernel';
import { loadKernel } from '@plinket/engine/node';
import { loadAssets, loadLightFiles, loadSetup } from '../load.ts';
import { triple, whole } from '../usage.ts';

export async function probeCommand(positional: string[], options: Record<string, string | undefined>): Promise<void> {
  const { setup, folder } = await loadSetup(positional[0], options['server']);
  const at = triple(options, 'point'),
    normal = triple(options, 'normal');
  const folders = [...(options['assets'] ? [options['assets']] : []), folder];
  const assets = await loadAssets(setup, folders);
  const scene = compile(setup, (sha) => assets.get(sha), undefined, { files: loadLightFiles(setup, folders) });
  const { module } = loadKernel(false);
  const kernel = module ? attachKernel(module, buildAccel(module, scene.geometry.mesh)) : plainKernel(scene.geometry.mesh);
  const result = probe(setup, scene, new Tracer(kernel, scene.geometry), at, normal, {
    samples: Math.max(1, whole(options, 'samples', 65536, 1 << 24)),
    seed: whole(options, 'seed', 1, 2 ** 31),
    bounces: whole(options, 'bounces', 3, 16),
  });
  console.log(JSON.stringify({ unit: 'lux', point: at, normal, ...result }, null, 2));
}
