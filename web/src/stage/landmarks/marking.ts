// The state of marking a head: which landmarks are proposed, confirmed, or not there at all, and what they make.
import {
  headFromLandmarks,
  LANDMARK_NAMES,
  mirrored,
  otherSide,
  type HeadFrame,
  type LandmarkName,
  type Patch,
  type Subject,
  type Vec3,
} from '@plinket/core';

/** How each landmark is asked for, and from where it is seen best: degrees round the head to its left, and above its eyes. */
export const ASKED: Record<LandmarkName, { words: string; from: [azimuth: number, elevation: number] }> = {
  pupilL: { words: 'pupil of the left eye', from: [8, 0] },
  pupilR: { words: 'pupil of the right eye', from: [-8, 0] },
  crown: { words: 'crown: the top of the head', from: [70, 20] },
  chinBottom: { words: 'lowest point of the chin', from: [50, -14] },
  browCentre: { words: 'middle between the brows', from: [0, 4] },
  noseTip: { words: 'tip of the nose', from: [38, 0] },
  noseBase: { words: 'base of the nose, where it meets the lip', from: [30, -20] },
  mouthCornerL: { words: 'left corner of the mouth', from: [25, -4] },
  mouthCornerR: { words: 'right corner of the mouth', from: [-25, -4] },
  cheekL: { words: 'left cheekbone, where it stands out most', from: [40, 0] },
  cheekR: { words: 'right cheekbone', from: [-40, 0] },
  earL: { words: 'left ear, at its opening', from: [88, 0] },
  earR: { words: 'right ear, at its opening', from: [-88, 0] },
};

/** One landmark while a head is marked. */
export interface Mark {
  point: Vec3 | undefined;
  state: 'proposed' | 'confirmed' | 'absent';
}

export interface Marking {
  marks: Record<LandmarkName, Mark>;
  /** The one that is asked for; none when all have been answered. */
  now: LandmarkName | undefined;
}

type Points = Partial<Record<LandmarkName, Vec3>>;

/** What was confirmed before is so still; else the file's own; else what the surface proposes. */
export function startMarking(known: Points | undefined, given: Points, proposed: Points): Marking {
  const marks = {} as Record<LandmarkName, Mark>;
  for (const name of LANDMARK_NAMES) {
    if (known) marks[name] = known[name] ? { point: known[name], state: 'confirmed' } : { point: proposed[name], state: 'absent' };
    else {
      const point = given[name] ?? proposed[name];
      marks[name] = { point, state: point ? 'proposed' : 'absent' };
    }
  }
  return { marks, now: LANDMARK_NAMES.find((n) => marks[n].state === 'proposed') ?? LANDMARK_NAMES[0] };
}

/** The next one that is only proposed after a name, round to those before it. */
function nextAfter(marks: Marking['marks'], name: LandmarkName): LandmarkName | undefined {
  const at = LANDMARK_NAMES.indexOf(name);
  return [...LANDMARK_NAMES.slice(at + 1), ...LANDMARK_NAMES.slice(0, at + 1)].find((n) => marks[n].state === 'proposed');
}

const withMark = (m: Marking, name: LandmarkName, mark: Mark): Marking => ({ ...m, marks: { ...m.marks, [name]: mark } });

/** Puts the landmark that is asked for at a point; with `head`, an unconfirmed one on the other side goes where that is mirrored. */
export function put(m: Marking, point: Vec3, head?: HeadFrame): Marking {
  if (!m.now) return m;
  const placed = withMark(m, m.now, { point, state: 'proposed' });
  const other = otherSide(m.now);
  return head && other && m.marks[other].state === 'proposed'
    ? withMark(placed, other, { point: mirrored(head, point), state: 'proposed' })
    : placed;
}

/** Confirms the landmark that is asked for, and asks for the next. */
export function confirm(m: Marking): Marking {
  if (!m.now || !m.marks[m.now].point) return m;
  const next = withMark(m, m.now, { point: m.marks[m.now].point, state: 'confirmed' });
  return { ...next, now: nextAfter(next.marks, m.now) };
}

/** Says that this head has no such thing, and asks for the next. */
export function leaveOut(m: Marking): Marking {
  if (!m.now) return m;
  const next = withMark(m, m.now, { point: m.marks[m.now].point, state: 'absent' });
  return { ...next, now: nextAfter(next.marks, m.now) };
}

/** Puts the landmark that is asked for where the other side's is mirrored. */
export function mirrorOver(m: Marking, head: HeadFrame): Marking {
  const other = m.now && otherSide(m.now);
  const point = other && m.marks[other].point;
  return point ? put(m, mirrored(head, point)) : m;
}

/** Confirms whatever is there still to be confirmed. */
export function confirmAll(m: Marking): Marking {
  const marks = { ...m.marks };
  for (const name of LANDMARK_NAMES)
    if (marks[name].state === 'proposed' && marks[name].point) marks[name] = { ...marks[name], state: 'confirmed' };
  return { marks, now: undefined };
}

/** The points that are confirmed. */
export function confirmed(m: Marking): Points {
  const out: Points = {};
  for (const name of LANDMARK_NAMES) {
    const { point, state } = m.marks[name];
    if (state === 'confirmed' && point) out[name] = point.map((v) => Number(v.toFixed(5))) as Vec3;
  }
  return out;
}

/**
 * What keeping confirmed landmarks changes of a subject: they replace those that it had. Where both pupils, crown and chin are among
 * them they make its head, and lights that followed a clip's head stay with this one.
 */
export function landmarksPatch(id: string, subject: Subject, points: Points): Patch {
  const head = headFromLandmarks(points as Record<string, Vec3>);
  const gone = Object.keys(subject.landmarks ?? {}).filter((name) => !(name in points));
  return {
    subjects: {
      items: {
        [id]: {
          landmarks: { ...Object.fromEntries(gone.map((name) => [name, null])), ...points },
          ...(head ? { head: { ...head, source: 'hand' } as unknown as Patch } : {}),
          ...(head && subject.pose?.head ? { pose: { head: null } } : {}),
        },
      },
    },
  };
}
