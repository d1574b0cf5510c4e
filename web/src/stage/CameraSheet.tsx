import { DEGREE, distance, type Camera, dollyPatch, lensPatch, orbitPatch, shotPatch, SHOTS, LIMITS } from '@plinket/core';
import { Focus } from 'lucide-react';
import { CheckField, SelectField } from '../parts/Fields.tsx';
import { NumberField } from '../parts/NumberField.tsx';
import { useDoc, useStage, useView, type ViewState } from './context.ts';
import { Cameras } from './Cameras.tsx';

const ASPECTS: [string, number][] = [
  ['Portrait 4 : 5', 0.8],
  ['Square 1 : 1', 1],
  ['Wide 16 : 9', 1.7778],
  ['Tall 9 : 16', 0.5625],
  ['Scope 2.39 : 1', 2.39],
];
/** Heights of usual sensors, millimetres. */
const SENSORS: [string, number][] = [
  ['24 mm full', 24],
  ['18.7 mm cine', 18.7],
  ['15.6 mm half', 15.6],
  ['13 mm small', 13],
];
const GUIDES: [ViewState['guides'], string][] = [
  ['none', 'none'],
  ['thirds', 'thirds'],
  ['centre', 'centre'],
  ['safe', 'safe areas'],
];

function Lens({ camera }: { camera: Camera }) {
  const { doc, view } = useStage();
  const { change } = doc.getState();
  const picking = useView((v) => v.picking === 'focus');
  const keepSize = useView((v) => v.keepSize);
  const { lens } = camera;
  return (
    <div>
      <NumberField
        label="Focal length"
        unit="mm"
        value={camera.focal}
        step={5}
        limits={LIMITS.focal}
        testId="focal"
        onChange={(focal, g) => change(lensPatch(doc.getState().setup, focal, keepSize), g)}
      />
      <CheckField label="keeping the figure’s size" value={keepSize} testId="keep-size" onChange={(v) => view.setState({ keepSize: v })} />
      <SelectField
        label="Sensor"
        value={String(camera.sensor)}
        options={[
          ...SENSORS.map(([n, v]) => [String(v), n] as const),
          ...(SENSORS.some(([, v]) => v === camera.sensor) ? [] : [[String(camera.sensor), `${camera.sensor} mm`] as const]),
        ]}
        onChange={(v) => change({ camera: { sensor: Number(v) } })}
      />
      <NumberField
        label="Exposure"
        unit="EV"
        value={camera.ev}
        step={0.1}
        digits={1}
        limits={LIMITS.ev}
        testId="ev"
        onChange={(ev, g) => change({ camera: { ev } }, g)}
      />
      <NumberField
        label="Opening f/"
        unit={lens.fNumber > 0 ? '' : 'off'}
        value={lens.fNumber}
        step={0.1}
        digits={1}
        limits={LIMITS.fNumber}
        testId="f-number"
        onChange={(fNumber, g) => change({ camera: { lens: { fNumber } } }, g)}
      />
      <NumberField
        label="Sharp at"
        unit="m"
        value={lens.focus}
        step={0.01}
        digits={2}
        limits={LIMITS.focus}
        testId="focus"
        onChange={(focus, g) => change({ camera: { lens: { focus } } }, g)}
      />
      <button
        className={`btn btn-xs mt-1 w-full ${picking ? 'btn-warning text-black' : ''}`}
        aria-pressed={picking}
        data-testid="focus-here"
        onClick={() => view.setState({ picking: picking ? undefined : 'focus' })}
      >
        <Focus size={12} /> {picking ? 'Click on the picture' : 'Focus on a point …'}
      </button>
    </div>
  );
}

function Stand({ camera }: { camera: Camera }) {
  const { doc, view } = useStage();
  const { change } = doc.getState();
  const guides = useView((v) => v.guides);
  const [px, py, pz] = camera.position,
    [tx, ty, tz] = camera.target;
  const now = distance(camera.position, camera.target);
  const round = Math.atan2(px - tx, pz - tz) / DEGREE;
  return (
    <div>
      <SelectField
        label="Shot"
        value=""
        options={[['', 'frame …'], ...SHOTS.map(([name]) => [name, name] as const)]}
        testId="shot"
        onChange={(name) => {
          const heads = SHOTS.find(([n]) => n === name)?.[1];
          if (heads) change(shotPatch(doc.getState().setup, heads));
        }}
      />
      <SelectField
        label="Frame"
        value={String(camera.aspect)}
        options={[
          ...ASPECTS.map(([n, a]) => [String(a), n] as const),
          ...(ASPECTS.some(([, a]) => a === camera.aspect) ? [] : [[String(camera.aspect), `${camera.aspect.toFixed(2)} : 1`] as const]),
        ]}
        onChange={(v) => change({ camera: { aspect: Number(v) } })}
      />
      <SelectField label="Guides" value={guides} options={GUIDES} testId="guides" onChange={(g) => view.setState({ guides: g })} />
      <NumberField
        label="Round"
        unit="°"
        value={round}
        step={1}
        limits={LIMITS.turn}
        testId="camera-round"
        onChange={(v, g) => change(orbitPatch(doc.getState().setup, v - round, 0), g)}
      />
      <NumberField
        label="Distance"
        unit="m"
        value={now}
        step={0.05}
        digits={2}
        limits={LIMITS.distance}
        testId="camera-distance"
        onChange={(v, g) => change(dollyPatch(doc.getState().setup, v / now), g)}
      />
      <NumberField
        label="Height"
        unit="m"
        value={py}
        step={0.02}
        digits={2}
        limits={LIMITS.coordinate}
        onChange={(v, g) => change({ camera: { position: [px, v, pz] } }, g)}
      />
      <NumberField
        label="Looks up"
        unit="m"
        value={ty}
        step={0.01}
        digits={2}
        limits={LIMITS.coordinate}
        onChange={(v, g) => change({ camera: { target: [tx, v, tz] } }, g)}
      />
      <NumberField
        label="Looks aside"
        unit="m"
        value={tx}
        step={0.01}
        digits={2}
        limits={LIMITS.coordinate}
        onChange={(v, g) => change({ camera: { target: [v, ty, tz] } }, g)}
      />
      <NumberField
        label="Roll"
        unit="°"
        value={camera.roll}
        step={1}
        digits={1}
        limits={LIMITS.turn}
        testId="camera-roll"
        onChange={(roll, g) => change({ camera: { roll } }, g)}
      />
    </div>
  );
}

export function CameraSheet() {
  const camera = useDoc((d) => d.setup.camera);
  return (
    <div className="pt-1">
      <Cameras />
      <div className="grid grid-cols-2 gap-x-5">
        <Lens camera={camera} />
        <Stand camera={camera} />
      </div>
    </div>
  );
}
