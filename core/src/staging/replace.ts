import type { Vec3 } from '../math/index.ts';
import {
  freeId,
  inOrder,
  orderOf,
  withRanks,
  groundAt,
  headInWorld,
  type HeadFrame,
  type Patch,
  type Setup,
  type Subject,
} from '../setup/index.ts';

/** What is known of a character that comes in. */
export interface Arrival {
  name: string;
  size: { width: number; height: number; depth: number };
  /** Lowest point in its own space, metres. */
  floor: number;
  parts: { name: string }[];
  head: HeadFrame;
  clips: string[];
}

/** Names of stand-ins begin with this. */
const STAND_IN = 'Stand-in';
export const isStandIn = (subject: Pick<Subject, 'name'>): boolean => subject.name.startsWith(STAND_IN);

/**
 * What bringing a character in changes: it takes the first subject's place, feet on the floor, and camera and stage
 * follow so that the new head is framed as the old one was. A stand-in is not thrown away: it steps aside and can be shown again.
 */
export function replacePatch(setup: Setup, report: Arrival, sha256: string, scale: number, letters = ''): Patch {
  const first = orderOf(setup.subjects)[0];
  const old = first === undefined ? undefined : setup.subjects.items[first];
  const steps = first !== undefined && old !== undefined && isStandIn(old) && !report.name.startsWith(STAND_IN);
  const id = steps ? freeId(setup.subjects.items, 'subject', letters) : (first ?? 'subject');
  // a bust hangs where its file hangs it; what is near the floor is put on it
  const rise = Math.abs(report.floor * scale) < 0.6 * report.size.height * scale ? -report.floor * scale : 0;
  const subject: Omit<Subject, 'rank'> = {
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
  if (steps)
    return {
      subjects: { items: { [first]: { visible: false }, ...(withRanks(setup.subjects, { [id]: subject }, 0) as unknown as Patch) } },
      camera,
    };
  // nothing of the old one stays: no pose, landmark, gaze or changed material
  const cleared = old && {
    ...(old.pose ? { pose: null } : {}),
    ...(old.landmarks ? { landmarks: null } : {}),
    ...(old.gaze ? { gaze: null } : {}),
    materials: Object.fromEntries(Object.keys(old.materials).map((part) => [part, null])),
  };
  const put = old ? { [id]: { ...subject, ...cleared } } : withRanks(setup.subjects, { [id]: subject });
  return { subjects: { items: put as unknown as Patch }, camera };
}

/** What bringing a character in beside the others changes: it stands a head's width clear to the picture's left, on the floor. */
export function besidePatch(setup: Setup, report: Arrival, sha256: string, scale: number, letters = ''): { patch: Patch; id: string } {
  const id = freeId(setup.subjects.items, 'subject', letters);
  const { width, height } = report.size;
  const left = Math.min(0, ...inOrder(setup.subjects).map((s) => s.position[0]));
  const rise = Math.abs(report.floor * scale) < 0.6 * height * scale ? setup.stage.floor - report.floor * scale : setup.stage.floor;
  const subject: Omit<Subject, 'rank'> = {
    name: report.name.slice(0, 120),
    asset: sha256,
    visible: true,
    position: [Number((left - Math.max(0.5, width * scale)).toFixed(3)), Number(rise.toFixed(4)), 0],
    turn: 0,
    scale,
    head: report.head,
    materials: {},
  };
  return { id, patch: { subjects: { items: withRanks(setup.subjects, { [id]: subject }) as unknown as Patch } } };
}

/** Share of part names that two versions of one character have in common, at least. */
const SAME = 0.5;

/** Whether a file is, by its parts' names, another version of a character. */
export function isNewer(parts: readonly string[], report: Arrival): boolean {
  const names = new Set(report.parts.map((p) => p.name)),
    old = new Set(parts);
  const common = [...old].filter((n) => names.has(n)).length;
  return common > 0 && common / Math.max(names.size, old.size) >= SAME;
}

/** Whether lights go with a clip's head, and the file still has the clip. */
export const followsClip = ({ pose }: Subject, { clips }: Arrival): boolean => pose?.head !== undefined && clips.includes(pose.clip);

/** The head that a newer version has: one that was picked or corrected by hand stays. */
export const newerHead = (old: Subject, report: Arrival): HeadFrame => (old.head.source === 'hand' ? old.head : report.head);

/**
 * What a newer version of a character changes: the file. Place, size, changed materials of parts that are still there, and a head
 * that was picked or corrected by hand stay; so do all lights. A pose stays when its clip does.
 * @param headAt where the new file's head is at the pose, where lights follow it
 */
export function newerPatch(setup: Setup, id: string, report: Arrival, sha256: string, scale = 1, headAt?: HeadFrame): Patch {
  const old = setup.subjects.items[id]!;
  const names = new Set(report.parts.map((p) => p.name));
  const gone = Object.keys(old.materials).filter((part) => !names.has(part));
  const eyes = old.gaze?.parts.filter((part) => names.has(part));
  return {
    subjects: {
      items: {
        [id]: {
          asset: sha256,
          // a scale that was chosen at import is meant; without one the old holds
          ...(scale === 1 ? {} : { scale }),
          head: newerHead(old, report) as unknown as Patch,
          ...(gone.length ? { materials: Object.fromEntries(gone.map((part) => [part, null])) } : {}),
          ...(eyes ? { gaze: eyes.length ? { parts: eyes } : null } : {}),
          ...(old.pose && !report.clips.includes(old.pose.clip) ? { pose: null } : {}),
          // lights that follow the clip follow the new file's head, or none
          ...(followsClip(old, report) ? { pose: { head: (headAt as unknown as Patch | undefined) ?? null } } : {}),
        },
      },
    },
  };
}

/** Raises or lowers a subject so that its lowest point stands on the floor, or on the thing that is under it. */
export const groundPatch = (setup: Setup, id: string, lowest: number): Patch => {
  const {
    position: [x, , z],
    scale,
  } = setup.subjects.items[id]!;
  return { subjects: { items: { [id]: { position: [x, Number((groundAt(setup, x, z).height - lowest * scale).toFixed(4)), z] } } } };
};
