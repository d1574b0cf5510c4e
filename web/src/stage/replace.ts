import { headInWorld, type Patch, type Setup, type Subject, type Vec3 } from '@plinket/core';
import type { AssetReport } from '../engine/messages.ts';

/**
 * What bringing a character in changes: it takes the first subject's place, feet on the floor, and camera and stage
 * follow so that the new head is framed as the old one was.
 */
export function replacePatch(setup: Setup, report: AssetReport, sha256: string, scale: number): Patch {
  const id = setup.subjects.order[0] ?? 'subject';
  const old = setup.subjects.items[id];
  // a bust hangs where its file hangs it; what is near the floor is put on it
  const rise = Math.abs(report.floor * scale) < 0.6 * report.size.height * scale ? -report.floor * scale : 0;
  const subject: Subject = {
    name: report.name.slice(0, 120),
    asset: sha256,
    visible: true,
    position: [0, Number(rise.toFixed(4)), 0],
    turn: 0,
    scale,
    head: report.head,
    materials: {},
  };
  const was = old ? headInWorld(old) : undefined,
    now = headInWorld(subject);
  const k = was ? now.headHeight / was.headHeight : 1;
  const moved = (p: Vec3): Vec3 =>
    was ? ([0, 1, 2].map((i) => Number((now.origin[i]! + (p[i]! - was.origin[i]!) * k).toFixed(4))) as Vec3) : p;
  const from = setup.camera;
  const camera = was
    ? { position: moved(from.position), target: moved(from.target) }
    : { target: now.origin, position: [now.origin[0], now.origin[1], Number((now.origin[2] + now.headHeight * 10).toFixed(4))] as Vec3 };
  return { subjects: { order: old ? setup.subjects.order : [...setup.subjects.order, id], items: { [id]: subject } }, camera };
}
