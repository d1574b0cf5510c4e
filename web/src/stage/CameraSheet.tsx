import { DEGREE, normalize, type Patch, type Setup } from '@plinket/core';
import { Focus } from 'lucide-react';
import { NumberField } from '../parts/NumberField.tsx';
import { useDoc, useStage, useView } from './context.ts';

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
  const { doc, view } = useStage();
  const { change } = doc.getState();
  const setup = useDoc((d) => d.setup);
  const picking = useView((v) => v.picking === 'focus');
  const { camera } = setup;
  const { lens } = camera;
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
        <NumberField
          label="Opening f/"
          unit={lens.fNumber > 0 ? '' : 'off'}
          value={lens.fNumber}
          step={0.1}
          digits={1}
          min={0}
          max={64}
          testId="f-number"
          onChange={(fNumber, g) => change({ camera: { lens: { fNumber } } }, g)}
        />
        <NumberField
          label="Sharp at"
          unit="m"
          value={lens.focus}
          step={0.01}
          digits={2}
          min={0.1}
          max={100}
          testId="focus"
          onChange={(focus, g) => change({ camera: { lens: { focus } } }, g)}
        />
        <button
          className={`btn btn-xs mt-1.5 w-full ${picking ? 'btn-warning' : ''}`}
          aria-pressed={picking}
          data-testid="focus-here"
          onClick={() => view.setState({ picking: picking ? undefined : 'focus' })}
        >
          <Focus size={12} /> {picking ? 'Click on the picture' : 'Focus on a point …'}
        </button>
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
