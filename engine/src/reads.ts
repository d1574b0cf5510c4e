import type { ReadJob, ReadResult } from '@plinket/core';

/** Points below which a reading is not worth being shared out. */
const LEAST = 128;

/** Cuts a reading into parts for so many workers, by points. */
export function splitRead(job: ReadJob, workers: number): ReadJob[] {
  const count = job.points.length / 3;
  const parts = Math.max(1, Math.min(workers, Math.floor(count / LEAST)));
  return Array.from({ length: parts }, (_, i) => {
    const from = Math.floor((i * count) / parts) * 3,
      to = Math.floor(((i + 1) * count) / parts) * 3;
    return { ...job, points: job.points.slice(from, to), normals: job.normals.slice(from, to) };
  });
}

/** Puts the parts of a reading together again. */
export function joinReads(job: ReadJob, parts: ReadResult[]): ReadResult {
  if (parts.length === 1) return parts[0]!;
  const count = job.points.length / 3,
    lights = job.lights.length;
  const open = new Float32Array(lights * count * 3),
    lit = new Float32Array(open.length),
    blockers = new Int32Array(lights * count);
  let from = 0;
  for (const part of parts) {
    const n = part.blockers.length / Math.max(1, lights);
    for (let l = 0; l < lights; l++) {
      open.set(part.open.subarray(l * n * 3, (l + 1) * n * 3), (l * count + from) * 3);
      lit.set(part.lit.subarray(l * n * 3, (l + 1) * n * 3), (l * count + from) * 3);
      blockers.set(part.blockers.subarray(l * n, (l + 1) * n), l * count + from);
    }
    from += n;
  }
  return { open, lit, blockers, rays: parts.reduce((sum, p) => sum + p.rays, 0) };
}
