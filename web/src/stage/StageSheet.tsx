import { setupHead, STAGE_KINDS, type Patch, type Plate, type StageShape } from '@plinket/core';
import { Maximize2 } from 'lucide-react';
import { fromHex, toHex } from '../parts/colour.ts';
import { ColourField, Heading, SelectField } from '../parts/Fields.tsx';
import { NumberField } from '../parts/NumberField.tsx';
import { useDoc, useStage } from './context.ts';
import { coverPatch } from './framing.ts';
import { LightFileButton } from './LightFiles.tsx';
import { addBallsPatch, freeId, round } from './moves.ts';
import { StagePresets } from './StagePresets.tsx';

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
      {haze.density > 0 && (
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
      )}
    </>
  );
}

const PLINTHS = ['round', 'square', 'rock'] as const;

/** Balls that judge light, plinths that figures stand on. */
function Things() {
  const { doc } = useStage();
  const setup = useDoc((d) => d.setup);
  const { props } = setup;
  const { change } = doc.getState();
  const balls = props.order.filter((id) => props.items[id]!.kind === 'ball');
  const without = (ids: string[]): Patch => ({
    props: { order: props.order.filter((id) => !ids.includes(id)), items: Object.fromEntries(ids.map((id) => [id, null])) },
  });
  const addPlinth = (shape: (typeof PLINTHS)[number]) => {
    const id = freeId(props.items, 'plinth');
    const k = setupHead(setup).headHeight / 0.23;
    const subject = setup.subjects.items[setup.subjects.order[0] ?? ''];
    const [x, , z] = subject?.position ?? [0, 0, 0];
    const plinth = {
      kind: 'plinth',
      shape,
      name: `Plinth, ${shape}`,
      visible: true,
      position: [x, setup.stage.floor, z],
      width: round(0.9 * k, 2),
      height: round(0.25 * k, 2),
      colour: [0.2, 0.19, 0.18],
      roughness: 0.7,
    };
    change({ props: { order: [...props.order, id], items: { [id]: plinth } } });
  };
  return (
    <div>
      <Heading>Things</Heading>
      <button
        className="btn btn-xs mb-1 w-full"
        data-testid="balls"
        onClick={() => {
          if (balls.length) {
            change(without(balls));
            return;
          }
          const patch = addBallsPatch(setup)['props'] as { order: string[]; items: Patch };
          change({ props: { order: [...props.order, ...patch.order], items: patch.items } });
        }}
      >
        {balls.length ? 'Take the balls away' : 'Chrome and grey balls'}
      </button>
      {props.order.map((id) => {
        const prop = props.items[id]!;
        if (prop.kind !== 'plinth') return null;
        const set = (patch: Patch, g?: string) => change({ props: { items: { [id]: patch } } }, g);
        return (
          <div key={id}>
            <NumberField
              label={`${prop.name}, wide`}
              unit="m"
              value={prop.width}
              step={0.05}
              digits={2}
              min={0.05}
              max={20}
              onChange={(width, g) => set({ width }, g)}
            />
            <NumberField
              label="tall"
              unit="m"
              value={prop.height}
              step={0.05}
              digits={2}
              min={0.01}
              max={10}
              onChange={(height, g) => set({ height }, g)}
            />
            <button className="quiet text-2xs hover:text-base-content" onClick={() => change(without([id]))}>
              take away
            </button>
          </div>
        );
      })}
      <SelectField
        label="Plinth"
        value=""
        options={[['', 'add one …'], ...PLINTHS.map((p) => [p, p] as const)]}
        testId="add-plinth"
        onChange={(shape) => shape !== '' && addPlinth(shape as (typeof PLINTHS)[number])}
      />
    </div>
  );
}

const PLATES: [Plate['kind'], string][] = [
  ['none', 'black'],
  ['linear', 'gradient'],
  ['radial', 'soft spot'],
  ['picture', 'picture'],
];

/** What is seen where nothing stands; it lights nothing. */
function PlateFields() {
  const { change } = useStage().doc.getState();
  const plate = useDoc((d) => d.setup.plate);
  const set = (patch: Patch, g?: string) => change({ plate: patch }, g);
  return (
    <div>
      <Heading>Behind everything</Heading>
      <SelectField
        label="Plate"
        value={plate.kind}
        options={plate.asset ? PLATES : PLATES.slice(0, 3)}
        testId="plate"
        onChange={(kind) => set({ kind })}
      />
      {(plate.kind === 'linear' || plate.kind === 'radial') && (
        <>
          <ColourField
            label={plate.kind === 'radial' ? 'Middle' : 'Above'}
            value={toHex(plate.from)}
            onChange={(hex) => set({ from: fromHex(hex) }, 'plate-from')}
          />
          <ColourField
            label={plate.kind === 'radial' ? 'Around' : 'Below'}
            value={toHex(plate.to)}
            onChange={(hex) => set({ to: fromHex(hex) }, 'plate-to')}
          />
        </>
      )}
      {plate.kind === 'radial' && (
        <NumberField
          label="Reaches"
          unit="%"
          value={plate.reach * 100}
          step={5}
          min={5}
          max={300}
          onChange={(v, g) => set({ reach: v / 100 }, g)}
        />
      )}
      <LightFileButton label="Picture, .png" accept=".png" light="plate" />
    </div>
  );
}

const KIND_WORDS: Record<StageShape['kind'], string> = {
  sweep: 'curved backdrop',
  corner: 'corner',
  flat: 'flat',
  room: 'rounded room',
  floor: 'floor only',
  none: 'nothing',
};

/** Which measures count for which kind. */
const MEASURES: Record<StageShape['kind'], (keyof StageShape)[]> = {
  sweep: ['back', 'fillet', 'width', 'height', 'front'],
  corner: ['back', 'fillet', 'width', 'height', 'front'],
  flat: ['back', 'width', 'height'],
  room: ['back', 'front', 'width', 'height', 'fillet'],
  floor: ['front', 'back', 'width'],
  none: [],
};
const WORDS: Partial<Record<keyof StageShape, string>> = {
  back: 'Wall behind',
  fillet: 'Fillet radius',
  width: 'Width',
  height: 'Wall height',
  front: 'Floor in front',
};

function Measures({ stage }: { stage: StageShape }) {
  const { change } = useStage().doc.getState();
  const set = (patch: Patch, g?: string) => change({ stage: patch }, g);
  if (stage.kind === 'none') return null;
  return (
    <>
      {MEASURES[stage.kind].map((key) => (
        <NumberField
          key={key}
          label={stage.kind === 'floor' && key === 'back' ? 'Floor behind' : (WORDS[key] ?? key)}
          unit="m"
          value={stage[key] as number}
          step={0.1}
          digits={1}
          min={key === 'fillet' || key === 'front' ? 0 : 0.3}
          max={100}
          testId={`stage-${key}`}
          onChange={(v, g) => set({ [key]: v }, g)}
        />
      ))}
      <NumberField
        label="Roughness"
        unit=""
        value={stage.roughness}
        step={0.05}
        digits={2}
        min={0}
        max={1}
        onChange={(roughness, g) => set({ roughness }, g)}
      />
      <ColourField
        label={stage.kind === 'room' ? 'Tone behind' : 'Tone'}
        value={toHex(stage.colour)}
        testId="stage-colour"
        onChange={(hex) => set({ colour: fromHex(hex) }, 'stage-colour')}
      />
      {stage.kind === 'room' && (
        <ColourField
          label="Tone in front"
          value={toHex(stage.frontColour)}
          onChange={(hex) => set({ frontColour: fromHex(hex) }, 'stage-front')}
        />
      )}
    </>
  );
}

export function StageSheet() {
  const { doc } = useStage();
  const { change } = doc.getState();
  const setup = useDoc((d) => d.setup);
  const { stage } = setup;
  const cover = coverPatch(setup);
  return (
    <div className="grid grid-cols-2 gap-x-5 pt-1">
      <StagePresets />
      <div>
        <SelectField
          label="Stage"
          value={stage.kind}
          options={STAGE_KINDS.map((k) => [k, KIND_WORDS[k]])}
          testId="stage-kind"
          onChange={(kind) => change({ stage: { kind } })}
        />
        <Measures stage={stage} />
        {cover && (
          <button className="btn btn-xs btn-warning mt-1.5 w-full text-black" data-testid="widen" onClick={() => change(cover)}>
            <Maximize2 size={12} /> The frame sees past it: widen
          </button>
        )}
      </div>
      <div>
        <Haze />
        <PlateFields />
        <div className="pt-1.5">
          <Things />
        </div>
      </div>
    </div>
  );
}
