import { cross, DEGREE, normalize, type HeadFrame, type Patch, type Setup, type Subject, type Vec3 } from '@plinket/core';
import { FileUp } from 'lucide-react';
import { NumberField } from '../parts/NumberField.tsx';
import { useDoc, useStage } from './context.ts';

const ASPECTS: [string, number][] = [
  ['Portrait 4 : 5', 0.8],
  ['Square 1 : 1', 1],
  ['Wide 16 : 9', 1.7778],
  ['Tall 9 : 16', 0.5625],
];

/** The camera put so far from its target, on the same line. */
function dolly(setup: Setup, to: number): Patch {
  const { position, target } = setup.camera;
  const d = normalize([position[0] - target[0], position[1] - target[1], position[2] - target[2]]);
  return { camera: { position: [0, 1, 2].map((i) => Number((target[i]! + d[i]! * to).toFixed(4))) } };
}

/** The camera swung round its target, degrees to the picture's right. */
function swing(setup: Setup, to: number): Patch {
  const { position: p, target: t } = setup.camera;
  const r = Math.hypot(p[0] - t[0], p[2] - t[2]);
  return {
    camera: { position: [t[0] + r * Math.sin(to * DEGREE), p[1], t[2] + r * Math.cos(to * DEGREE)].map((v) => Number(v.toFixed(4))) },
  };
}

export function CameraSheet() {
  const { change } = useStage().doc.getState();
  const setup = useDoc((d) => d.setup);
  const { camera, look } = setup;
  const [px, py, pz] = camera.position,
    [tx, ty, tz] = camera.target;
  const distance = Math.hypot(px - tx, py - ty, pz - tz);
  return (
    <div className="grid grid-cols-2 gap-x-5 pt-1">
      <div>
        <NumberField
          label="Focal length"
          unit="mm"
          value={camera.focal}
          step={5}
          min={8}
          max={1200}
          onChange={(focal, g) => change({ camera: { focal } }, g)}
        />
        <NumberField
          label="Exposure"
          unit="EV"
          value={camera.ev}
          step={0.1}
          digits={1}
          min={-10}
          max={24}
          testId="ev"
          onChange={(ev, g) => change({ camera: { ev } }, g)}
        />
        <label className="flex h-6 items-center gap-2 border-b hairline">
          <span className="quiet flex-1">Frame</span>
          <select
            className="rounded-sm bg-base-200 px-1 font-semibold"
            value={camera.aspect}
            onChange={(e) => change({ camera: { aspect: Number(e.target.value) } })}
          >
            {!ASPECTS.some(([, a]) => a === camera.aspect) && <option value={camera.aspect}>{camera.aspect.toFixed(2)} : 1</option>}
            {ASPECTS.map(([name, a]) => (
              <option key={name} value={a}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <label className="flex h-6 items-center gap-2 border-b hairline">
          <span className="quiet flex-1">View</span>
          <select
            className="rounded-sm bg-base-200 px-1 font-semibold"
            value={look.view}
            onChange={(e) => change({ look: { view: e.target.value } })}
          >
            <option value="neutral">neutral, soft shoulder</option>
            <option value="plain">plain sRGB</option>
          </select>
        </label>
      </div>
      <div>
        <NumberField
          label="Round"
          unit="°"
          value={Math.atan2(px - tx, pz - tz) / DEGREE}
          step={1}
          min={-180}
          max={180}
          onChange={(v, g) => change(swing(setup, v), g)}
        />
        <NumberField
          label="Distance"
          unit="m"
          value={distance}
          step={0.05}
          digits={2}
          min={0.2}
          max={50}
          onChange={(v, g) => change(dolly(setup, v), g)}
        />
        <NumberField
          label="Height"
          unit="m"
          value={py}
          step={0.02}
          digits={2}
          min={-5}
          max={50}
          onChange={(v, g) => change({ camera: { position: [px, v, pz] } }, g)}
        />
        <NumberField
          label="Looks at, height"
          unit="m"
          value={ty}
          step={0.01}
          digits={2}
          min={-5}
          max={50}
          onChange={(v, g) => change({ camera: { target: [tx, v, tz] } }, g)}
        />
        <NumberField
          label="Looks at, aside"
          unit="m"
          value={tx}
          step={0.01}
          digits={2}
          min={-20}
          max={20}
          onChange={(v, g) => change({ camera: { target: [v, ty, tz] } }, g)}
        />
      </div>
    </div>
  );
}

export function StageSheet() {
  const { change } = useStage().doc.getState();
  const stage = useDoc((d) => d.setup.stage);
  const sweep = {
    kind: 'sweep',
    width: 9,
    front: 4,
    back: 1.9,
    height: 4.2,
    fillet: 0.9,
    floor: 0,
    colour: [0.11, 0.104, 0.098],
    roughness: 0.85,
  };
  if (stage.kind === 'none')
    return (
      <div className="pt-6 text-center">
        <p className="quiet mb-2">There is no backdrop: black behind the figure.</p>
        <button className="btn btn-xs" onClick={() => change({ stage: sweep })}>
          Build a curved backdrop
        </button>
      </div>
    );
  const set = (key: string) => (v: number, g?: string) => change({ stage: { [key]: v } }, g);
  const grey = Math.round((stage.colour[0] + stage.colour[1] + stage.colour[2]) * (100 / 3));
  return (
    <div className="grid grid-cols-2 gap-x-5 pt-1">
      <div>
        <NumberField label="Wall behind" unit="m" value={stage.back} step={0.1} digits={1} min={0.3} max={50} onChange={set('back')} />
        <NumberField label="Fillet radius" unit="m" value={stage.fillet} step={0.1} digits={1} min={0} max={20} onChange={set('fillet')} />
        <NumberField label="Width" unit="m" value={stage.width} step={0.5} digits={1} min={0.5} max={100} onChange={set('width')} />
        <NumberField label="Wall height" unit="m" value={stage.height} step={0.1} digits={1} min={0.3} max={50} onChange={set('height')} />
      </div>
      <div>
        <NumberField label="Floor in front" unit="m" value={stage.front} step={0.1} digits={1} min={0} max={50} onChange={set('front')} />
        <NumberField label="Roughness" unit="" value={stage.roughness} step={0.05} digits={2} min={0} max={1} onChange={set('roughness')} />
        <NumberField
          label="Reflects"
          unit="%"
          value={grey}
          step={1}
          min={1}
          max={90}
          onChange={(v, g) => {
            const k = grey > 0 ? v / grey : 1;
            change({ stage: { colour: stage.colour.map((c) => Number(Math.min(1, c * k).toFixed(4))) } }, g);
          }}
        />
        <button
          className="btn btn-xs mt-1.5"
          onClick={() => change({ stage: { ...Object.fromEntries(Object.keys(stage).map((k) => [k, null])), kind: 'none' } })}
        >
          Without a backdrop
        </button>
      </div>
    </div>
  );
}

/** A head frame with its nose turned to an angle about the vertical, degrees. */
function faceTo(head: HeadFrame, degrees: number): HeadFrame {
  const forward: Vec3 = [Math.sin(degrees * DEGREE), 0, Math.cos(degrees * DEGREE)];
  return { ...head, forward, up: normalize(cross(forward, cross([0, 1, 0], forward))), source: 'hand' };
}

function HeadFields({ id, subject }: { id: string; subject: Subject }) {
  const { change } = useStage().doc.getState();
  const { head } = subject;
  const set = (next: Partial<HeadFrame>, g?: string) => change({ subjects: { items: { [id]: { head: { ...next, source: 'hand' } } } } }, g);
  const origin = (axis: 0 | 1 | 2) => (v: number, g?: string) =>
    set({ origin: head.origin.map((o, i) => (i === axis ? Number(v.toFixed(4)) : o)) as Vec3 }, g);
  const said = { file: 'from the file’s landmarks', proposed: 'proposed: check it', hand: 'corrected by hand' }[head.source];
  return (
    <div>
      <h3 className="caps quiet">
        Head <span className={`font-normal normal-case ${head.source === 'proposed' ? 'text-warning' : ''}`}>({said})</span>
      </h3>
      <NumberField
        label="Eyes, height"
        unit="m"
        value={head.origin[1]}
        step={0.01}
        digits={2}
        min={-5}
        max={500}
        testId="head-height"
        onChange={origin(1)}
      />
      <NumberField label="Eyes, aside" unit="m" value={head.origin[0]} step={0.01} digits={2} min={-50} max={50} onChange={origin(0)} />
      <NumberField label="Eyes, forward" unit="m" value={head.origin[2]} step={0.01} digits={2} min={-50} max={50} onChange={origin(2)} />
      <NumberField
        label="Faces"
        unit="°"
        value={Math.atan2(head.forward[0], head.forward[2]) / DEGREE}
        step={5}
        min={-180}
        max={180}
        onChange={(v, g) => set(faceTo(head, v), g)}
      />
      <NumberField
        label="Chin–crown"
        unit="m"
        value={head.height}
        step={0.01}
        digits={2}
        min={0.01}
        max={50}
        onChange={(height, g) => set({ height }, g)}
      />
    </div>
  );
}

export function CharacterSheet() {
  const { doc, chooseFile } = useStage();
  const { change } = doc.getState();
  const subjects = useDoc((d) => d.setup.subjects);
  const id = subjects.order[0];
  const subject = id === undefined ? undefined : subjects.items[id];
  const bring = (
    <button className="btn btn-xs mt-1.5" onClick={chooseFile}>
      <FileUp size={12} /> Bring in a character (GLB) …
    </button>
  );
  if (!subject || id === undefined)
    return (
      <div className="pt-6 text-center">
        <p className="quiet mb-1">There is no character yet. Drop a GLB anywhere here.</p>
        {bring}
      </div>
    );
  const set = (change_: Patch, g?: string) => change({ subjects: { items: { [id]: change_ } } }, g);
  return (
    <div className="grid grid-cols-2 gap-x-5 pt-1">
      <div>
        <h3 className="caps quiet truncate">{subject.name}</h3>
        <NumberField
          label="Turned"
          unit="°"
          value={subject.turn}
          step={1}
          min={-180}
          max={180}
          testId="turn"
          onChange={(turn, g) => set({ turn }, g)}
        />
        <NumberField
          label="Scale"
          unit="×"
          value={subject.scale}
          step={0.01}
          digits={2}
          min={0.001}
          max={1000}
          onChange={(scale, g) => set({ scale }, g)}
        />
        <NumberField
          label="Raised"
          unit="m"
          value={subject.position[1]}
          step={0.01}
          digits={2}
          min={-10}
          max={10}
          onChange={(v, g) => set({ position: [subject.position[0], v, subject.position[2]] }, g)}
        />
        <label className="flex h-6 items-center gap-2 border-b hairline">
          <span className="quiet flex-1">In the picture</span>
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={subject.visible}
            onChange={(e) => set({ visible: e.target.checked })}
          />
        </label>
        {bring}
      </div>
      <HeadFields id={id} subject={subject} />
    </div>
  );
}
