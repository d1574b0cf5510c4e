import { NumberField } from '../parts/NumberField.tsx';
import { useDoc, useStage } from './context.ts';
import { addBallsPatch } from './moves.ts';

/** Even haze in the whole room, and how it scatters. */
function Haze() {
  const { change } = useStage().doc.getState();
  const haze = useDoc((d) => d.setup.haze);
  return (
    <>
      <NumberField
        label="Haze"
        unit="% / m"
        value={haze.density * 100}
        step={0.5}
        digits={1}
        min={0}
        max={100}
        testId="haze"
        onChange={(v, g) => change({ haze: { density: Number((v / 100).toFixed(5)) } }, g)}
      />
      <NumberField
        label="Forwards"
        unit=""
        value={haze.anisotropy}
        step={0.05}
        digits={2}
        min={-0.9}
        max={0.9}
        onChange={(anisotropy, g) => change({ haze: { anisotropy } }, g)}
      />
    </>
  );
}

/** Reference balls beside the head: what chrome and middle grey make of this light. */
function Balls() {
  const { doc } = useStage();
  const props = useDoc((d) => d.setup.props);
  const add = () => doc.getState().change(addBallsPatch(doc.getState().setup));
  const remove = () => doc.getState().change({ props: { order: [], items: Object.fromEntries(props.order.map((id) => [id, null])) } });
  return props.order.length ? (
    <button className="btn btn-xs mt-1.5 w-full" onClick={remove}>
      Take the balls away
    </button>
  ) : (
    <button className="btn btn-xs mt-1.5 w-full" data-testid="balls" onClick={add}>
      Chrome and grey balls
    </button>
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
        <div className="mb-3 text-left">
          <Haze />
          <Balls />
        </div>
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
        <Haze />
        <Balls />
        <button
          className="btn btn-xs mt-1.5 w-full"
          onClick={() => change({ stage: { ...Object.fromEntries(Object.keys(stage).map((k) => [k, null])), kind: 'none' } })}
        >
          Without a backdrop
        </button>
      </div>
    </div>
  );
}
