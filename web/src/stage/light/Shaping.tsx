import {
  orderOf,
  isPlaced,
  type FlagItem,
  type Light,
  type Patch,
  type PlacedLight,
  addFlagPatch,
  flagPatch,
  lightPatch,
  placeChange,
  removeFlagPatch,
  LIMITS,
  limitsTimes,
} from '@plinket/core';
import { Plus, Trash2 } from 'lucide-react';
import { NumberField } from '../../parts/NumberField.tsx';
import { CheckField, Heading, SelectField } from '../../parts/Fields.tsx';
import { useDoc, useStage, useView } from '../context.ts';
import { LightFileButton } from '../LightFiles.tsx';
import { letters } from '../../parts/letters.ts';

/** Grid or beam, and sides. */
function Beam({ light }: { light: PlacedLight }) {
  const { changeLights } = useStage();
  if (light.kind === 'spot')
    return (
      <NumberField
        label="Soft edge"
        unit="%"
        value={light.soft * 100}
        step={5}
        limits={limitsTimes(LIMITS.unit, 100)}
        testId="soft"
        onChange={(v, g) => changeLights({ soft: v / 100 }, g)}
      />
    );
  if (light.kind !== 'rectangle' && light.kind !== 'disk') return null;
  return (
    <>
      <NumberField
        label="Grid"
        unit="°"
        value={light.beam.angle}
        step={5}
        limits={LIMITS.grid}
        format={(v) => (v >= 180 ? 'none' : String(Math.round(v)))}
        testId="grid"
        onChange={(angle, g) => changeLights({ beam: { angle } }, g)}
      />
      {light.beam.angle < 180 && (
        <SelectField
          label="Narrowing keeps"
          value={light.beam.keep}
          options={[
            ['centre', 'the middle'],
            ['total', 'the total'],
          ]}
          onChange={(keep) => changeLights({ beam: { keep } })}
        />
      )}
      <CheckField label="Both sides shine" value={light.twoSided} testId="two-sided" onChange={(twoSided) => changeLights({ twoSided })} />
    </>
  );
}

function RangeFields({ light }: { light: PlacedLight }) {
  const { changeLights } = useStage();
  const { range } = light;
  const end = (label: string, key: 'near' | 'far') => (
    <NumberField
      label={label}
      unit="m"
      value={range[key]}
      step={0.1}
      digits={2}
      limits={LIMITS.range}
      format={(v) => (v > 0 ? v.toFixed(2) : 'none')}
      testId={`range-${key}`}
      onChange={(v, g) => changeLights({ range: { [key]: v } }, g)}
    />
  );
  return (
    <>
      {end('Begins at', 'near')}
      {end('Ends at', 'far')}
      {(range.near > 0 || range.far > 0) && (
        <NumberField
          label="Fading over"
          unit="%"
          value={range.soft * 100}
          step={5}
          limits={limitsTimes(LIMITS.unit, 100)}
          onChange={(v, g) => changeLights({ range: { soft: v / 100 } }, g)}
        />
      )}
    </>
  );
}

const PATTERNS = [
  ['none', 'none'],
  ['window', 'window'],
  ['blinds', 'blinds'],
  ['leaves', 'leaves'],
] as const;

function GoboFields({ id, light }: { id: string; light: PlacedLight }) {
  const { change } = useStage().doc.getState();
  const { gobo } = light;
  const set = (patch: Patch, g?: string) => change(lightPatch(id, { gobo: patch }), g);
  return (
    <>
      <SelectField
        label="Gobo"
        value={gobo.pattern}
        options={gobo.pattern === 'picture' ? [...PATTERNS, ['picture', 'picture']] : PATTERNS}
        testId="gobo"
        onChange={(pattern) => set({ pattern, ...(pattern === 'picture' ? {} : { asset: null }) })}
      />
      {gobo.pattern !== 'none' && (
        <>
          <NumberField
            label="Its distance"
            unit="cm"
            value={gobo.distance * 100}
            step={5}
            limits={limitsTimes(LIMITS.goboDistance, 100)}
            testId="gobo-distance"
            onChange={(v, g) => set({ distance: v / 100 }, g)}
          />
          <NumberField
            label="Its width"
            unit="cm"
            value={gobo.width * 100}
            step={2}
            limits={limitsTimes(LIMITS.goboWidth, 100)}
            testId="gobo-width"
            onChange={(v, g) => set({ width: v / 100 }, g)}
          />
          <NumberField label="Turned" unit="°" value={gobo.turn} step={5} limits={LIMITS.turn} onChange={(turn, g) => set({ turn }, g)} />
        </>
      )}
      <LightFileButton label="Picture, .png" accept=".png" light={id} />
    </>
  );
}

function FlagFields({ id, flag, light }: { id: string; flag: FlagItem; light: string }) {
  const { doc, view } = useStage();
  const { change } = doc.getState();
  const set = (patch: Patch, g?: string) => change(flagPatch(id, patch), g);
  const cm = (label: string, key: 'width' | 'height' | 'depth') => (
    <NumberField
      label={label}
      unit="cm"
      value={flag[key] * 100}
      step={5}
      limits={limitsTimes(LIMITS.size, 100)}
      testId={`flag-${key}`}
      onChange={(v, g) => set({ [key]: v / 100 }, g)}
    />
  );
  return (
    <div className="grid grid-cols-2 gap-x-5 pb-1" data-testid="flag-fields">
      <div>
        <SelectField
          label="Shape"
          value={flag.kind}
          options={[
            ['panel', 'panel'],
            ['disk', 'disk'],
            ['box', 'box'],
          ]}
          onChange={(kind) => set({ kind })}
        />
        {cm('Width', 'width')}
        {cm('Height', 'height')}
        {flag.kind === 'box' && cm('Depth', 'depth')}
        <NumberField label="Roll" unit="°" value={flag.roll} step={5} limits={LIMITS.turn} onChange={(roll, g) => set({ roll }, g)} />
      </div>
      <div>
        <NumberField
          label="Distance"
          unit="m"
          value={flag.place.distance}
          step={0.05}
          digits={2}
          limits={LIMITS.distance}
          testId="flag-distance"
          onChange={(distance, g) => set({ place: placeChange({ distance }) }, g)}
        />
        <NumberField
          label="Azimuth"
          unit="°"
          value={flag.place.azimuth}
          step={1}
          limits={LIMITS.turn}
          testId="flag-azimuth"
          onChange={(azimuth, g) => set({ place: placeChange({ azimuth }) }, g)}
        />
        <NumberField
          label="Elevation"
          unit="°"
          value={flag.place.elevation}
          step={1}
          limits={LIMITS.elevation}
          testId="flag-elevation"
          onChange={(elevation, g) => set({ place: placeChange({ elevation }) }, g)}
        />
        <NumberField
          label="Density"
          unit="%"
          value={flag.density * 100}
          step={5}
          limits={limitsTimes(LIMITS.unit, 100)}
          testId="flag-density"
          onChange={(v, g) => set({ density: v / 100 }, g)}
        />
        <NumberField
          label="Soft edge"
          unit="%"
          value={flag.soft * 100}
          step={5}
          limits={limitsTimes(LIMITS.unit, 100)}
          onChange={(v, g) => set({ soft: v / 100 }, g)}
        />
        <div className="flex gap-3 pt-1 text-2xs">
          <label className="flex items-center gap-1">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={flag.lights.length > 0}
              onChange={(e) => set({ lights: e.target.checked ? [light] : [] })}
            />{' '}
            this light only
          </label>
          <button
            className="quiet ml-auto flex items-center gap-1 hover:text-base-content"
            onClick={() => {
              change(removeFlagPatch(id));
              view.setState({ flag: undefined });
            }}
          >
            <Trash2 size={11} /> Remove
          </button>
        </div>
      </div>
    </div>
  );
}

/** The flags in this light's way. */
function Flags({ id }: { id: string }) {
  const { doc, view } = useStage();
  const flags = useDoc((d) => d.setup.flags);
  const open = useView((v) => v.flag);
  const { change } = doc.getState();
  const mine = orderOf(flags).filter((f) => flags.items[f]!.lights.length === 0 || flags.items[f]!.lights.includes(id));
  const add = () => {
    const made = addFlagPatch(doc.getState().setup, id, letters());
    change(made.patch);
    view.setState({ flag: made.id });
  };
  return (
    <div className="pt-1.5">
      <div className="flex items-center gap-2">
        <Heading>Flags</Heading>
        <button className="btn btn-xs ml-auto h-5 min-h-0" onClick={add}>
          <Plus size={11} /> Flag
        </button>
      </div>
      {mine.map((f) => {
        const flag = flags.items[f]!;
        return (
          <div key={f}>
            <div className="flex h-6 items-center gap-2 border-b hairline">
              <button
                className={`flex-1 truncate text-left ${open === f ? 'font-semibold' : 'quiet'}`}
                aria-expanded={open === f}
                onClick={() => view.setState({ flag: open === f ? undefined : f })}
              >
                {flag.name}
                {flag.lights.length === 0 && ', before all lights'}
              </button>
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={flag.on}
                aria-label={`${flag.name} in the way`}
                onChange={(e) => change(flagPatch(f, { on: e.target.checked }))}
              />
            </div>
            {open === f && <FlagFields id={f} flag={flag} light={id} />}
          </div>
        );
      })}
    </div>
  );
}

export function ShapingLeaf({ id, light }: { id: string; light: Light }) {
  return (
    <div>
      {isPlaced(light) ? (
        <div className="grid grid-cols-2 gap-x-5">
          <div>
            <Heading>Beam and range</Heading>
            <Beam light={light} />
            <RangeFields light={light} />
          </div>
          <div>
            <Heading>In the way</Heading>
            <GoboFields id={id} light={light} />
          </div>
        </div>
      ) : (
        light.kind === 'sun' && <AirField light={light} />
      )}
      <Flags id={id} />
    </div>
  );
}

function AirField({ light }: { light: Extract<Light, { kind: 'sun' }> }) {
  const { changeLights } = useStage();
  return (
    <CheckField
      label="Tinted and dimmed by the air, as low as it stands"
      value={light.air}
      testId="air"
      onChange={(air) => changeLights({ air })}
    />
  );
}
