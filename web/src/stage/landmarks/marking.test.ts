import { describe, expect, it } from '@jest/globals';
import { applyPatch, LANDMARK_NAMES, parseSetup, type HeadFrame, type LandmarkName, type Vec3 } from '@plinket/core';
import { HEAD, setupWith, subjectWith } from '../../../../core/src/testing/setups.ts';
import { ASKED, confirm, confirmAll, confirmed, landmarksPatch, leaveOut, mirrorOver, put, startMarking } from './marking.ts';

const head: HeadFrame = { origin: [0, 1.6, 0.1], forward: [0, 0, 1], up: [0, 1, 0], height: 0.23, source: 'proposed' };
const POINTS: Partial<Record<LandmarkName, Vec3>> = {
  pupilL: [0.03, 1.6, 0.1],
  pupilR: [-0.03, 1.6, 0.1],
  crown: [0, 1.715, 0],
  chinBottom: [0, 1.485, 0.1],
  browCentre: [0, 1.62, 0.11],
  noseBase: [0, 1.54, 0.11],
  noseTip: [0, 1.55, 0.13],
  earL: [0.07, 1.59, 0],
};
const start = () => startMarking(undefined, {}, POINTS);

describe('marking a head', () => {
  it('begins with the file’s landmarks before what the surface proposes; what neither has is not there', () => {
    const m = startMarking(undefined, { noseTip: [9, 9, 9] }, POINTS);
    expect(m.marks.noseTip).toEqual({ point: [9, 9, 9], state: 'proposed' });
    expect(m.marks.pupilL.point).toEqual(POINTS.pupilL);
    expect(m.marks.earR).toEqual({ point: undefined, state: 'absent' });
    expect(m.now).toBe('pupilL');
  });
  it('that was done before is as it was left: what was not confirmed is absent, and can be taken up from the proposal', () => {
    const m = startMarking({ pupilL: [1, 1, 1] }, { noseTip: [9, 9, 9] }, POINTS);
    expect(m.marks.pupilL).toEqual({ point: [1, 1, 1], state: 'confirmed' });
    expect(m.marks.noseTip).toEqual({ point: POINTS.noseTip, state: 'absent' });
  });
  it('asks one by one, passes what is answered, comes back to what was passed over, and ends', () => {
    let m = start();
    const asked: (string | undefined)[] = [];
    m = { ...m, now: 'crown' };
    for (let i = 0; i < 8; i++) {
      asked.push(m.now);
      m = i === 2 ? leaveOut(m) : confirm(m);
    }
    expect(asked).toEqual(['crown', 'chinBottom', 'browCentre', 'noseTip', 'noseBase', 'earL', 'pupilL', 'pupilR']);
    expect(m.now).toBeUndefined();
    expect(Object.keys(confirmed(m)).sort()).toEqual(['chinBottom', 'crown', 'earL', 'noseBase', 'noseTip', 'pupilL', 'pupilR']);
    // with nothing asked for, nothing happens
    expect(confirm(m)).toBe(m);
    expect(leaveOut(m)).toBe(m);
    expect(put(m, [0, 0, 0])).toBe(m);
  });
  it('what has no place cannot be confirmed', () => {
    const m = { ...start(), now: 'earR' as const };
    expect(confirm(m)).toBe(m);
    expect(confirm(put(m, [-0.07, 1.59, 0])).marks.earR).toEqual({ point: [-0.07, 1.59, 0], state: 'confirmed' });
  });
  it('a side that is put takes the unconfirmed other along, mirrored; a confirmed one stays', () => {
    const m = put(start(), [0.034, 1.61, 0.1], head);
    expect(m.marks.pupilL.point).toEqual([0.034, 1.61, 0.1]);
    m.marks.pupilR.point!.forEach((v, k) => expect(v).toBeCloseTo([-0.034, 1.61, 0.1][k]!, 12));
    // alone
    expect(put(start(), [0.034, 1.61, 0.1]).marks.pupilR.point).toEqual(POINTS.pupilR);
    const right = confirm({ ...start(), now: 'pupilR' });
    expect(put({ ...right, now: 'pupilL' }, [0.05, 1.6, 0.1], head).marks.pupilR.point).toEqual(POINTS.pupilR);
    // what this head has only on one side is not made up
    expect(put({ ...start(), now: 'earL' }, [0.08, 1.6, 0], head).marks.earR.state).toBe('absent');
  });
  it('is mirrored over by hand', () => {
    const m = mirrorOver({ ...start(), now: 'earR' }, head);
    m.marks.earR.point!.forEach((v, k) => expect(v).toBeCloseTo([-0.07, 1.59, 0][k]!, 12));
    const single = { ...start(), now: 'crown' as const };
    expect(mirrorOver(single, head)).toBe(single);
  });
  it('all at once', () => {
    const m = confirmAll(start());
    expect(m.now).toBeUndefined();
    expect(Object.keys(confirmed(m))).toHaveLength(Object.keys(POINTS).length);
  });
  it('asks for every landmark in words, seen from its own side', () => {
    for (const name of LANDMARK_NAMES) {
      const { words, from } = ASKED[name];
      expect(words.length).toBeGreaterThan(4);
      if (/L$/.test(name)) expect(from[0]).toBeGreaterThan(0);
      if (/R$/.test(name)) expect(from[0]).toBeLessThan(0);
    }
  });
});

describe('keeping landmarks', () => {
  const setup = parseSetup(
    setupWith(
      {},
      {
        subjects: {
          items: {
            s: {
              ...subjectWith(),
              pose: { clip: 'nods', time: 1, head: HEAD },
              landmarks: { noseBase: [0, 1.5, 0.1], noseTip: [0, 1, 1] },
            },
          },
        },
      },
    ),
  );
  const subject = setup.subjects.items['s']!;
  it('replaces what there was, makes the head, and lights follow the clip no longer', () => {
    const after = parseSetup(applyPatch(setup, landmarksPatch('s', subject, confirmed(confirmAll(start()))))).subjects.items['s']!;
    expect(after.landmarks).toEqual(POINTS);
    expect(after.head).toMatchObject({ source: 'hand', origin: [0, 1.6, 0.1] });
    // crown to chin along the head's own up
    expect(after.head.height).toBeCloseTo(0.23, 6);
    expect(after.pose).toEqual({ clip: 'nods', time: 1 });
  });
  it('without eyes, crown or chin leaves the head as it is', () => {
    const after = parseSetup(applyPatch(setup, landmarksPatch('s', subject, { noseTip: [0, 1.55, 0.13] }))).subjects.items['s']!;
    expect(after.landmarks).toEqual({ noseTip: [0, 1.55, 0.13] });
    expect(after.head).toEqual(HEAD);
    expect(after.pose!.head).toEqual(HEAD);
  });
});
