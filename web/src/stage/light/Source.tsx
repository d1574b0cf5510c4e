import {
  formatStops,
  heldBy,
  outputIn,
  outputValue,
  parseQuantity,
  QuantityError,
  unitsOf,
  type Light,
  type OutputUnit,
  type Patch,
  lightPatch,
  LIMITS,
  limitsTimes,
} from '@plinket/core';
import { toast } from 'sonner';
import { NumberField } from '../../parts/NumberField.tsx';
import { SelectField } from '../../parts/Fields.tsx';
import { useStage } from '../context.ts';
import { DomeFill } from './DomeFill.tsx';
import { GlowingObject } from './GlowingObject.tsx';

/** Units as they are typed, by how people write them. */
const TYPED: Record<string, OutputUnit> = {
  'cd/m2': 'cd/m²',
  nit: 'cd/m²',
  nits: 'cd/m²',
  'kcd/m2': 'kcd/m²',
  lm: 'lm',
  w: 'W',
  cd: 'cd',
  lx: 'lx',
  lux: 'lx',
  x: 'relative',
};

const figures = (v: number): string => (v >= 100 ? Math.round(v).toString() : Number(v.toPrecision(3)).toString());

/** Output in the unit that the artist prefers; a typed unit becomes the shown one. Converting never changes the picture. */
function Output({ id, light }: { id: string; light: Light }) {
  const { doc, changeLights } = useStage();
  const { change } = doc.getState();
  const { unit, held } = light.output;
  const units = unitsOf(light);
  const shown = outputIn(light, unit);
  const put = (value: number, as: OutputUnit, more: Patch = {}, g?: string) => {
    // others in hand go along by the factor; their own units stay
    if (as === unit && Object.keys(more).length === 0)
      return changeLights({ output: { value: Number(outputValue(light, as, value).toPrecision(8)) } }, g);
    change(lightPatch(id, { output: { ...more, unit: as, value: Number(outputValue(light, as, value).toPrecision(8)) } }), g);
  };
  const onTyped = (text: string): boolean => {
    try {
      const q = parseQuantity(text);
      const as = q.unit === '' ? unit : TYPED[q.unit];
      if (!as || !units.includes(as)) throw new QuantityError(`${q.unit} does not belong here; ${units.join(', ')} do.`);
      const now = outputIn(light, as);
      const value = q.change === 'times' ? now * q.value : q.change === 'add' ? now + q.value : q.value;
      if (!(value > 0)) throw new QuantityError('an output is above 0; switch the light off instead.');
      if (q.efficacy !== undefined && as === 'W')
        change(
          lightPatch(id, {
            output: {
              unit: as,
              efficacy: q.efficacy,
              value: outputValue({ ...light, output: { ...light.output, efficacy: q.efficacy } } as Light, as, value),
            },
          }),
        );
      else put(value, as);
    } catch (error) {
      if (!(error instanceof QuantityError)) throw error;
      toast.error(`Output: ${error.message}`);
    }
    return true;
  };
  return (
    <>
      <div className="flex items-center border-b hairline">
        <div className="min-w-0 flex-1 [&>label]:border-0">
          <NumberField
            label="Output"
            unit=""
            value={shown}
            step={shown >= 1000 ? 50 : shown >= 100 ? 10 : shown >= 10 ? 1 : 0.1}
            digits={2}
            format={figures}
            limits={LIMITS.output}
            testId="output"
            onTyped={onTyped}
            onChange={(v, g) => put(v, unit, {}, g)}
          />
        </div>
        <select
          className="w-[4.2rem] rounded-sm bg-base-200 px-0.5 text-2xs"
          value={unit}
          aria-label="Unit of the output"
          data-testid="unit"
          onChange={(e) => change(lightPatch(id, { output: { unit: e.target.value } }))}
        >
          {units.map((u) => (
            <option key={u} value={u}>
              {u === 'relative' ? '×' : u === 'W' ? `W, ${light.output.efficacy} lm/W` : u}
            </option>
          ))}
        </select>
      </div>
      {HELD[light.kind] && (
        <SelectField
          label="Resize keeps"
          title="The total: a larger source gets dimmer and lights as much. The surface: it stays as bright and gives more light."
          value={held}
          options={HELD[light.kind]!}
          testId="held"
          onChange={(next) => change(lightPatch(id, { output: { ...heldBy(light, next as Light['output']['held']) } }))}
        />
      )}
    </>
  );
}

const SURFACE = [
  ['luminance', 'the surface'],
  ['flux', 'the total'],
] as const;
const HELD: Partial<Record<Light['kind'], readonly (readonly [string, string])[]>> = {
  rectangle: SURFACE,
  disk: SURFACE,
  ball: SURFACE,
  tube: SURFACE,
  spot: [
    ['intensity', 'the middle'],
    ['flux', 'the total'],
  ],
};

const cm = (v: number) => v * 100;

function Size({ light }: { light: Light }) {
  const { changeLights } = useStage();
  const length = (label: string, key: string, metres: number, testId: string) => (
    <NumberField
      label={label}
      unit="cm"
      value={cm(metres)}
      step={metres < 0.2 ? 1 : 5}
      digits={metres < 0.1 ? 1 : 0}
      limits={limitsTimes(LIMITS.size, 100)}
      testId={testId}
      onChange={(v, g) => changeLights({ [key]: Number((v / 100).toFixed(5)) }, g)}
    />
  );
  switch (light.kind) {
    case 'rectangle':
    case 'disk':
      return (
        <>
          {length('Width', 'width', light.width, 'width')}
          {length('Height', 'height', light.height, 'height')}
        </>
      );
    case 'ball':
    case 'profile':
      return length('Diameter', 'diameter', light.diameter, 'diameter');
    case 'spot':
      return (
        <>
          {length('Lens', 'diameter', light.diameter, 'diameter')}
          <NumberField
            label="Beam"
            unit="°"
            value={light.angle}
            step={1}
            limits={LIMITS.beam}
            testId="beam"
            onChange={(angle, g) => changeLights({ angle }, g)}
          />
        </>
      );
    case 'tube':
      return (
        <>
          {length('Length', 'length', light.length, 'length')}
          {length('Diameter', 'diameter', light.diameter, 'diameter')}
        </>
      );
    case 'sun':
      return (
        <NumberField
          label="Disk"
          unit="°"
          value={light.angle}
          step={0.1}
          digits={2}
          limits={LIMITS.sunDisk}
          testId="sun-angle"
          onChange={(angle, g) => changeLights({ angle }, g)}
        />
      );
    default:
      return null;
  }
}

export function Source({ id, light }: { id: string; light: Light }) {
  const { changeLights } = useStage();
  return (
    <div>
      <NumberField
        label="Level"
        unit="stops"
        value={light.stops}
        step={1 / 3}
        limits={LIMITS.stops}
        format={formatStops}
        testId="level"
        onChange={(stops, g) => changeLights({ stops: Math.round(stops * 1e4) / 1e4 }, g)}
      />
      <Size light={light} />
      <Output id={id} light={light} />
      {light.kind === 'dome' && <DomeFill id={id} light={light} />}
      {light.kind === 'object' && <GlowingObject id={id} light={light} />}
      {light.kind === 'profile' && (
        <p className="quiet truncate pt-1 text-2xs">
          {light.profile.name || 'a measured luminaire'}: {Math.round(light.profile.peak)} cd, {Math.round(light.profile.flux)} lm
        </p>
      )}
    </div>
  );
}
