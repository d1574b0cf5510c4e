import { cross, DEGREE, normalize, type HeadFrame, type Patch, type Subject, type Vec3 } from '@plinket/core';
import { FileUp } from 'lucide-react';
import { NumberField } from '../parts/NumberField.tsx';
import { useDoc, useStage } from './context.ts';

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
      <FileUp size={12} /> Bring in a character …
    </button>
  );
  if (!subject || id === undefined)
    return (
      <div className="pt-6 text-center">
        <p className="quiet mb-1">There is no character yet. Drop a GLB, OBJ, PLY or STL anywhere here.</p>
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
