import { AXES, CLIP_SPEEDS, FRAME_RATES, framesOf, LIMITS, limitsTimes, TURNING, type Patch, type Turntable } from '@plinket/core';
import { toast } from 'sonner';
import { Heading, SelectField } from '../parts/Fields.tsx';
import { NumberField } from '../parts/NumberField.tsx';
import { Eight } from './Eight.tsx';
import { Movie } from './Movie.tsx';
import { planWords, useDoc, useRoom, useTurn } from './state.ts';
import { planOf } from './work.ts';

const TURNING_WORDS: { [t in Turntable['turning']]: string } = {
  figure: 'the figure',
  camera: 'the camera',
  'camera and lights': 'camera and lights',
  dome: 'the dome',
  'figure then dome': 'figure, then dome',
};
const AXIS_WORDS: { [a in Turntable['axis']]: string } = { middle: 'its middle', foot: 'where it stands', plinth: 'the plinth' };

/** What touches the safe frame, and how the camera comes to keep all of it. */
function Safe() {
  const { doc } = useRoom();
  const margin = useDoc((d) => planOf(d.setup).margin),
    { position, target, focal } = useDoc((d) => d.setup.camera),
    locked = useDoc((d) => d.setup.camera.locked);
  const measure = useTurn((t) => t.measure);
  if (!measure) return <p className="quiet text-2xs">The sweep is being measured …</p>;
  if (measure.off === undefined) return <p className="quiet text-2xs">No figure is in sight: there is no frame to keep.</p>;
  const worst = measure.touches[0] && [...measure.touches].sort((a, b) => b.out - a.out)[0]!;
  const away = Math.hypot(...position.map((v, i) => v - target[i]!)),
    safe = measure.position && Math.hypot(...measure.position.map((v, i) => v - target[i]!));
  const leaves = worst !== undefined && worst.out > 0.002;
  const go = (patch: Patch, what: string) => {
    doc.getState().change({ camera: patch });
    toast(what, { action: { label: 'Undo', onClick: () => void doc.getState().undo() } });
  };
  const { lens } = doc.getState().setup.camera;
  return (
    <>
      <p
        className={`text-2xs ${leaves ? 'text-warning' : 'quiet'}`}
        role="status"
        data-testid="safe-words"
        data-out={worst?.out.toFixed(4)}
      >
        {leaves
          ? `It leaves the safe frame at the ${worst.side} by ${(worst.out * 100).toFixed(1)} % of the frame’s height.`
          : `All of it stays within ${(margin * 100).toFixed(0)} % of the edges, at every angle${worst ? `; nearest at the ${worst.side}` : ''}.`}
      </p>
      <div className="flex flex-wrap gap-1 py-1">
        <button
          className="btn btn-xs"
          disabled={!measure.position || locked}
          title="The camera on its line to what it looks at, as near as the safe frame allows"
          onClick={() =>
            go(
              {
                position: measure.position!,
                ...(lens.fNumber > 0 ? { lens: { focus: Number((lens.focus + safe! - away).toFixed(3)) } } : {}),
              },
              `The camera stands ${safe!.toFixed(2)} m away`,
            )
          }
        >
          Distance {safe ? `${safe.toFixed(2)} m` : '–'}
        </button>
        <button
          className="btn btn-xs"
          disabled={!measure.focal || locked}
          title="The longest lens that keeps all of it, from where the camera stands"
          onClick={() => go({ focal: measure.focal! }, `A lens of ${measure.focal!.toFixed(0)} mm`)}
        >
          Lens {measure.focal ? `${measure.focal.toFixed(1)} mm` : '–'}
        </button>
      </div>
      <p className="quiet text-2xs">
        now {away.toFixed(2)} m, {focal.toFixed(1)} mm{locked ? '; the camera is locked' : ''}
      </p>
      {measure.off > 0.005 && (
        <p className="text-2xs text-warning" data-testid="wobble">
          Its middle stands {(measure.off * 100).toFixed(1)} cm off the axis: it wobbles by {(measure.off * 200).toFixed(1)} cm.
        </p>
      )}
    </>
  );
}

/** Whether figures play their clips while they turn, and how those fit. */
function Clips({ plan, set }: { plan: Turntable; set(change: Partial<Turntable>): void }) {
  const clips = useTurn((t) => t.measure?.clips);
  const posed = useDoc((d) => Object.values(d.setup.subjects.items).some((s) => s.pose));
  if (!posed) return null;
  return (
    <>
      <label className="flex min-h-6 items-center gap-1.5">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={plan.plays === true}
          onChange={(e) => set({ plays: e.target.checked })}
        />
        clips play while it turns
      </label>
      {plan.plays &&
        clips?.map((c) => (
          <p key={c.subject} className="text-2xs" data-testid="clip-words">
            {c.name}: “{c.clip}” plays {c.loops === 1 ? 'once' : `${c.loops} times`} at {c.speed.toFixed(2)} of its speed.
            {Math.abs(c.speed - 1) > 0.005 && (
              <button className="btn ml-1 btn-xs" title="So that it plays at its own speed" onClick={() => set({ frames: c.frames })}>
                {c.frames} frames
              </button>
            )}
            {(c.speed < CLIP_SPEEDS[0] || c.speed > CLIP_SPEEDS[1]) && (
              <span className="block text-warning">The turn and the clip do not match: that is seen.</span>
            )}
            {c.jump > 0.002 && (
              <span className="block text-warning">It does not end as it begins: it jumps by {(c.jump * 100).toFixed(1)} cm.</span>
            )}
          </p>
        ))}
    </>
  );
}

/** How it turns, the safe frame, and what is made of it. */
export function PlanSheet() {
  const { doc } = useRoom();
  const plan = useDoc((d) => planOf(d.setup));
  const hasDome = useDoc((d) => Object.values(d.setup.lights.items).some((l) => l.kind === 'dome' || l.kind === 'sky' || l.kind === 'sun'));
  const set = (change: Partial<Turntable>, gesture?: string) =>
    doc.getState().change({ turntable: { ...planOf(doc.getState().setup), ...change } }, gesture);
  return (
    <aside aria-label="Plan of the turn" className="flex w-96 shrink-0 flex-col gap-3 overflow-y-auto border-l hairline bg-base-100 p-3">
      <section className="flex flex-col" aria-label="Turn">
        <Heading>Turn</Heading>
        <div className="grid grid-cols-2 gap-x-4">
          <SelectField
            label="Turns"
            value={plan.turning}
            options={TURNING.map((t) => [t, TURNING_WORDS[t]])}
            onChange={(turning) => set({ turning })}
          />
          <SelectField label="About" value={plan.axis} options={AXES.map((a) => [a, AXIS_WORDS[a]])} onChange={(axis) => set({ axis })} />
          <SelectField
            label="Way"
            value={plan.direction}
            options={[
              ['left', 'to its left'],
              ['right', 'to its right'],
            ]}
            onChange={(direction) => set({ direction })}
          />
          <NumberField
            label="Begins at"
            unit="°"
            value={plan.start}
            step={5}
            limits={LIMITS.thingTurn}
            onChange={(start, g) => set({ start }, g)}
          />
          <NumberField
            label="Frames of a turn"
            unit=""
            value={plan.frames}
            step={1}
            limits={LIMITS.turnFrames}
            testId="turn-frames"
            onChange={(frames, g) => set({ frames: Math.round(frames) }, g)}
          />
          <SelectField
            label="Frames a second"
            value={String(plan.fps)}
            options={FRAME_RATES.map((f) => [String(f), String(f)])}
            onChange={(fps) => set({ fps: Number(fps) as Turntable['fps'] })}
          />
          <NumberField
            label="Still before"
            unit=""
            value={plan.before}
            step={1}
            limits={LIMITS.holdFrames}
            onChange={(v, g) => set({ before: Math.round(v) }, g)}
          />
          <NumberField
            label="Still after"
            unit=""
            value={plan.after}
            step={1}
            limits={LIMITS.holdFrames}
            onChange={(v, g) => set({ after: Math.round(v) }, g)}
          />
        </div>
        {plan.turning.includes('dome') && !hasDome && (
          <p className="py-1 text-2xs text-warning">This setup has no dome, sky or sun: nothing turns.</p>
        )}
        <Clips plan={plan} set={set} />
        <p className="quiet pt-1 text-2xs" data-testid="plan-words">
          {planWords(plan)}; the first frame never comes twice
        </p>
      </section>
      <section className="flex flex-col" aria-label="Safe frame">
        <Heading>Safe frame</Heading>
        <NumberField
          label="Free at each edge"
          unit="%"
          value={plan.margin * 100}
          step={1}
          limits={limitsTimes(LIMITS.safeMargin, 100)}
          onChange={(v, g) => set({ margin: Number((v / 100).toFixed(4)) }, g)}
        />
        <Safe />
      </section>
      <Eight />
      <Movie frames={framesOf(plan)} />
    </aside>
  );
}
