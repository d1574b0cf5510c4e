import { STAGE_KINDS, type Patch, type Plate, type StageShape, coverPatch, round, LIMITS, limitsTimes, type Limits } from '@plinket/core';
import { Maximize2 } from 'lucide-react';
import { fromHex, toHex } from '../parts/colour.ts';
import { CheckField, ColourField, Heading, SelectField } from '../parts/Fields.tsx';
import { Leaves } from '../parts/Leaves.tsx';
import { NumberField } from '../parts/NumberField.tsx';
import { CatcherLeaf } from './CatcherLeaf.tsx';
import { useDoc, useStage, useView } from './context.ts';
import { LightFileButton } from './LightFiles.tsx';
import { StagePresets } from './StagePresets.tsx';
import { Things } from './Things.tsx';

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
        limits={limitsTimes(LIMITS.haze, 100)}
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
          limits={LIMITS.anisotropy}
          onChange={(anisotropy, g) => change({ haze: { anisotropy } }, g)}
        />
      )}
    </>
  );
}

const PLATES: [Plate['kind'], string][] = [
  ['none', 'black'],
  ['linear', 'gradient'],
  ['radial', 'soft spot'],
  ['checker', 'squares'],
  ['picture', 'picture'],
];

/** What a plate's two colours are. */
const PLATE_WORDS = { linear: ['Above', 'Below'], radial: ['Middle', 'Around'], checker: ['One', 'Other'] } as const;

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
        options={plate.asset ? PLATES : PLATES.slice(0, -1)}
        testId="plate"
        onChange={(kind) => set({ kind })}
      />
      {plate.kind !== 'none' && plate.kind !== 'picture' && (
        <>
          <ColourField
            label={PLATE_WORDS[plate.kind][0]}
            value={toHex(plate.from)}
            onChange={(hex) => set({ from: fromHex(hex) }, 'plate-from')}
          />
          <ColourField
            label={PLATE_WORDS[plate.kind][1]}
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
          limits={limitsTimes(LIMITS.plateReach, 100)}
          onChange={(v, g) => set({ reach: v / 100 }, g)}
        />
      )}
      {plate.kind !== 'none' && (
        <NumberField
          label="Level"
          unit="st"
          value={plate.stops ?? 0}
          step={1 / 3}
          digits={2}
          limits={LIMITS.target}
          testId="plate-stops"
          onChange={(stops, g) => set({ stops: stops === 0 ? null : Number(stops.toFixed(3)) }, g)}
        />
      )}
      <LightFileButton label="Picture, .png" accept=".png" light="plate" />
    </div>
  );
}

const KIND_WORDS: Record<StageShape['kind'], string> = {
  sweep: 'sweep',
  corner: 'corner',
  flat: 'flat',
  room: 'rounded room',
  floor: 'floor only',
  none: 'nothing',
};

type Measure = 'back' | 'front' | 'width' | 'height' | 'fillet';
const MEASURE_LIMITS: Record<Measure, Limits> = {
  back: LIMITS.stageWidth,
  front: LIMITS.stageFront,
  width: LIMITS.stageWidth,
  height: LIMITS.stageHeight,
  fillet: LIMITS.fillet,
};

/** Which measures count for which kind. */
const MEASURES: Record<StageShape['kind'], Measure[]> = {
  sweep: ['back', 'fillet', 'width', 'height', 'front'],
  corner: ['back', 'fillet', 'width', 'height', 'front'],
  flat: ['back', 'width', 'height'],
  room: ['back', 'front', 'width', 'height', 'fillet'],
  floor: ['front', 'back', 'width'],
  none: [],
};
const WORDS: Record<Measure, string> = {
  back: 'Wall behind',
  fillet: 'Fillet radius',
  width: 'Width',
  height: 'Wall height',
  front: 'Floor in front',
};

/** The wall's other tone, and between which heights it turns into it. */
function Gradient({ stage }: { stage: StageShape }) {
  const { change } = useStage().doc.getState();
  const { gradient } = stage;
  const set = (patch: Patch | null, g?: string) => change({ stage: { gradient: patch } }, g);
  return (
    <>
      <CheckField
        label="Another tone above"
        value={gradient !== undefined}
        testId="stage-gradient"
        onChange={(on) =>
          set(
            on
              ? { colour: stage.colour.map((c) => Number((c * 0.25).toFixed(4))), from: 0.3, to: Math.max(1, round(stage.height, 1)) }
              : null,
          )
        }
      />
      {gradient && (
        <>
          <ColourField label="Tone above" value={toHex(gradient.colour)} onChange={(hex) => set({ colour: fromHex(hex) }, 'stage-above')} />
          {(['from', 'to'] as const).map((key) => (
            <NumberField
              key={key}
              label={key === 'from' ? 'turns from' : 'to'}
              unit="m up"
              value={gradient[key]}
              step={0.1}
              digits={1}
              limits={[0, LIMITS.stageHeight[1]]}
              testId={`gradient-${key}`}
              onChange={(v, g) => set({ [key]: v }, g)}
            />
          ))}
        </>
      )}
    </>
  );
}

function Measures({ stage }: { stage: StageShape }) {
  const { change } = useStage().doc.getState();
  const set = (patch: Patch, g?: string) => change({ stage: patch }, g);
  if (stage.kind === 'none') return null;
  return (
    <>
      {MEASURES[stage.kind].map((key) => (
        <NumberField
          key={key}
          label={stage.kind === 'floor' && key === 'back' ? 'Floor behind' : WORDS[key]}
          unit="m"
          value={stage[key]}
          step={0.1}
          digits={1}
          limits={MEASURE_LIMITS[key]}
          testId={`stage-${key}`}
          onChange={(v, g) => set({ [key]: v }, g)}
        />
      ))}
      {stage.kind === 'sweep' && (
        <NumberField
          label="Gentle curve"
          unit="%"
          value={(stage.smoothness ?? 0) * 100}
          step={10}
          limits={limitsTimes(LIMITS.unit, 100)}
          testId="stage-smoothness"
          onChange={(v, g) => set({ smoothness: v === 0 ? null : Number((v / 100).toFixed(3)) }, g)}
        />
      )}
      <NumberField
        label="Roughness"
        unit=""
        value={stage.roughness}
        step={0.05}
        digits={2}
        limits={LIMITS.unit}
        onChange={(roughness, g) => set({ roughness }, g)}
      />
      <ColourField
        label={stage.kind === 'room' ? 'Tone behind' : 'Tone'}
        value={toHex(stage.colour)}
        testId="stage-colour"
        onChange={(hex) => set({ colour: fromHex(hex) }, 'stage-colour')}
      />
      {stage.kind !== 'floor' && <Gradient stage={stage} />}
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

const LEAVES: [leaf: 'set' | 'catcher', label: string][] = [
  ['set', 'Set and things'],
  ['catcher', 'Only shadows'],
];

export function StageSheet() {
  const { view } = useStage();
  const leaf = useView((v) => v.stageLeaf);
  return (
    <>
      <Leaves label="Leaves of the stage" leaves={LEAVES} open={leaf} onOpen={(name) => view.setState({ stageLeaf: name })} />
      {leaf === 'set' ? <SetLeaf /> : <CatcherLeaf />}
    </>
  );
}

function SetLeaf() {
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
