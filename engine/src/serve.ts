import { Tracer } from '@plinket/core';
import { attachKernel, buildAccel, plainKernel, type RayKernel } from '@plinket/kernel';
import type { FromWorker, ToWorker } from './protocol.ts';

/** The worker's side: traces what it is told. `post` sends an answer and gives the listed buffers away. */
export function serveTracing(post: (message: FromWorker, transfer: ArrayBuffer[]) => void): (message: ToWorker) => void {
  let tracer: Tracer | undefined;
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
        post({ type: 'traced', id: message.id, result, ms: performance.now() - start }, [
          result.films.buffer as ArrayBuffer,
          result.alpha.buffer as ArrayBuffer,
        ]);
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

function kernelFor({ geometry, module, accel, seat }: Extract<ToWorker, { type: 'geometry' }>): RayKernel {
  if (!module) return plainKernel(geometry.mesh);
  return attachKernel(module, accel ?? buildAccel(module, geometry.mesh), accel ? seat : 0);
}
