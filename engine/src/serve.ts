import { Tracer } from '@plinket/core';
import { attachKernel, buildAccel, plainKernel, rebuild, type RayKernel, type WasmAccel } from '@plinket/kernel';
import type { FromWorker, ToWorker } from './protocol.ts';

/** The worker's side: traces what it is told. `post` sends an answer and gives the listed buffers away. */
export function serveTracing(post: (message: FromWorker, transfer: ArrayBuffer[]) => void): (message: ToWorker) => void {
  let tracer: Tracer | undefined;
  /** This worker's own hierarchy, where memory is not shared. */
  let own: WasmAccel | undefined;
  const kernelFor = ({ geometry, module, accel, seat }: Extract<ToWorker, { type: 'geometry' }>): RayKernel => {
    if (!module) return plainKernel(geometry.mesh);
    if (accel) return attachKernel(module, accel, seat);
    if (!own || !rebuild(module, own, geometry.mesh)) own = buildAccel(module, geometry.mesh);
    return attachKernel(module, own);
  };
  return (message) => {
    try {
      if (message.type === 'geometry') {
        tracer = undefined;
        tracer = new Tracer(kernelFor(message), message.geometry);
        post({ type: 'ready' }, []);
      } else {
        if (!tracer) throw new Error('No geometry has been given.');
        const start = performance.now();
        const result = tracer.trace(message.job);
        const { films, volumes, squares, volumeSquares, alpha, guides } = result;
        const given = [films, volumes, squares, volumeSquares, alpha, ...(guides ? [guides.sums, guides.ids] : [])];
        post(
          { type: 'traced', id: message.id, result, ms: performance.now() - start },
          given.map((a) => a.buffer as ArrayBuffer),
        );
      }
    } catch (error) {
      post(
        {
          type: 'failed',
          id: message.type === 'trace' ? message.id : undefined,
          message: error instanceof Error ? error.message : String(error),
        },
        [],
      );
    }
  };
}
