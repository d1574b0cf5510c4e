import {
  isPlaced,
  sunPosition,
  wrapDegrees,
  type Light,
  type Patch,
  type PlacedLight,
  type SkyLight,
  type SunLight,
  type Vec3,
  aimsOf,
  placeChange,
  placePatch,
  skyPatch,
  LIMITS,
  orderOf,
  aroundPatch,
} from '@plinket/core';
import { Crosshair, Telescope } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { NumberField } from '../../parts/NumberField.tsx';
import { SelectField } from '../../parts/Fields.tsx';
import { useDoc, useStage, useView } from '../context.ts';
import { Source } from './Source.tsx';

const same = (a: Vec3, b: Vec3): boolean => a.every((v, i) => Math.abs(v - b[i]!) < 1e-3);

/** What the light is aimed at: a part of the figure, a point that is clicked, or free. */
function Aim({ id, light }: { id: string; light: PlacedLight }) {
  const { doc, view } = useStage();
  const setup = useDoc((d) => d.setup);
  const picking = useView((v) => v.picking === 'aim');
  const along = useView((v) => v.along === id);
  const aims = aimsOf(setup, light);
  const now = aims.find(([, at]) => same(at, light.place.aim))?.[0] ?? 'free';
  return (
    <>
      <SelectField
        label="Aimed at"
        value={now}
        options={[...aims.map(([name]) => [name, name] as const), ...(now === 'free' ? [['free', 'a point'] as const] : [])]}
        onChange={(name) => {
          const at = aims.find(([n]) => n === name)?.[1];
          if (at) doc.getState().change(placePatch(id, { aim: at }));
        }}
        testId="aim"
      />
      <div className="flex gap-1.5 pt-1.5">
        <button
          className={`btn btn-xs flex-1 px-1.5 font-medium whitespace-nowrap ${picking ? 'btn-warning text-black' : ''}`}
          aria-pressed={picking}
          title="Click the point in the picture"
          onClick={() => view.setState({ picking: picking ? undefined : 'aim' })}
        >
          <Crosshair size={12} /> At a point
        </button>
        <button
          className={`btn btn-xs px-1.5 whitespace-nowrap ${along ? 'btn-warning text-black' : ''}`}
          aria-pressed={along}
          title="See the set from the light and drag to move it; the picture stays beside it (L)"
          onClick={() => view.setState({ along: along ? undefined : id })}
        >
          <Telescope size={12} /> Look along
        </button>
      </div>
    </>
  );
}

/** Around whose head it stands, where there is more than one. */
function Around({ id, light }: { id: string; light: PlacedLight }) {
  const { change } = useStage().doc.getState();
  const subjects = useDoc((d) => d.setup.subjects);
  const shown = orderOf(subjects).filter((s) => subjects.items[s]!.visible);
  const around = light.around !== undefined && shown.includes(light.around) ? light.around : '';
  if (shown.length < 2 && light.around === undefined) return null;
  return (
    <SelectField
      label="Stands around"
      value={around}
      options={[['', 'the first figure'], ...shown.map((s) => [s, subjects.items[s]!.name] as [string, string])]}
      testId="around"
      onChange={(subject) => change(aroundPatch(id, subject === '' ? undefined : subject))}
    />
  );
}

function AroundHead({ id, light }: { id: string; light: PlacedLight }) {
  const { changeLights } = useStage();
  const { place } = light;
  return (
    <div>
      <Around id={id} light={light} />
      <NumberField
        label="Azimuth"
        unit="°"
        value={place.azimuth}
        step={1}
        limits={LIMITS.turn}
        testId="azimuth"
        onChange={(azimuth, g) => changeLights({ place: placeChange({ azimuth }) }, g)}
      />
      <NumberField
        label="Elevation"
        unit="°"
        value={place.elevation}
        step={1}
        limits={LIMITS.elevation}
        testId="elevation"
        onChange={(elevation, g) => changeLights({ place: placeChange({ elevation }) }, g)}
      />
      <NumberField
        label="Distance"
        unit="m"
        value={place.distance}
        step={0.05}
        digits={2}
        limits={LIMITS.distance}
        testId="distance"
        onChange={(distance, g) => changeLights({ place: placeChange({ distance }) }, g)}
      />
      <NumberField
        label="Roll"
        unit="°"
        value={light.roll}
        step={5}
        limits={LIMITS.turn}
        testId="roll"
        onChange={(roll, g) => changeLights({ roll }, g)}
      />
      <Aim id={id} light={light} />
    </div>
  );
}

function UnderTheSky({ id, light }: { id: string; light: SunLight | SkyLight }) {
  const { doc } = useStage();
  const set = (patch: Patch, g?: string) => doc.getState().change(skyPatch(doc.getState().setup, id, patch), g);
  return (
    <div>
      <NumberField
        label="Bearing"
        unit="°"
        value={light.bearing}
        step={1}
        limits={LIMITS.turn}
        testId="bearing"
        onChange={(bearing, g) => set({ bearing }, g)}
      />
      <NumberField
        label="Height"
        unit="°"
        value={light.elevation}
        step={1}
        digits={1}
        limits={LIMITS.sunHeight}
        testId="sun-height"
        onChange={(elevation, g) => set({ elevation }, g)}
      />
      <NumberField
        label="Turbidity"
        unit=""
        value={light.turbidity}
        step={0.5}
        digits={1}
        limits={LIMITS.turbidity}
        testId="turbidity"
        onChange={(turbidity, g) => set({ turbidity }, g)}
      />
      {light.kind === 'sun' && <PlaceAndTime light={light} set={set} />}
    </div>
  );
}

/** The sun where it stands at a place and a moment. */
function PlaceAndTime({ light, set }: { light: SunLight; set(patch: Patch, g?: string): void }) {
  const [open, setOpen] = useState(light.where !== undefined);
  const where = light.where ?? { latitude: 54.2, longitude: 7.9, at: '2026-10-04T16:30Z', north: 180 };
  const put = (next: typeof where, g?: string) => {
    try {
      const { azimuth, elevation } = sunPosition(next);
      set(
        {
          where: next,
          // bearings count towards +X from +Z, compass degrees clockwise from north
          bearing: Number(wrapDegrees(next.north - azimuth).toFixed(2)),
          elevation: Number(Math.min(90, Math.max(-2, elevation)).toFixed(2)),
        },
        g,
      );
      if (elevation < -2) toast('The sun is below the horizon then; it stands at −2°.');
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="quiet cursor-pointer pt-1 text-2xs">By place and time</summary>
      <NumberField
        label="Latitude"
        unit="°"
        value={where.latitude}
        step={0.5}
        digits={2}
        limits={LIMITS.latitude}
        testId="latitude"
        onChange={(latitude, g) => put({ ...where, latitude }, g)}
      />
      <NumberField
        label="Longitude"
        unit="°"
        value={where.longitude}
        step={0.5}
        digits={2}
        limits={LIMITS.turn}
        testId="longitude"
        onChange={(longitude, g) => put({ ...where, longitude }, g)}
      />
      <NumberField
        label="North at"
        unit="°"
        value={where.north}
        step={5}
        limits={LIMITS.turn}
        onChange={(north, g) => put({ ...where, north }, g)}
      />
      <label className="flex h-6 items-center gap-2 border-b hairline">
        <span className="quiet flex-1">Moment</span>
        <input
          className="w-36 rounded-sm bg-transparent px-1 text-right font-semibold hover:bg-base-300 focus:bg-base-300"
          aria-label="Moment, with its zone"
          data-testid="moment"
          defaultValue={where.at}
          key={where.at}
          onBlur={(e) => e.target.value !== where.at && put({ ...where, at: e.target.value.trim() })}
          onKeyDown={(e) => {
            if (e.key === 'Enter') e.currentTarget.blur();
            e.stopPropagation();
          }}
        />
      </label>
      <button className="btn btn-xs mt-1 w-full" onClick={() => put(where)}>
        Put the sun there
      </button>
    </details>
  );
}

const EVERYWHERE = {
  glow: 'All surfaces with light of their own, as bright as their materials say (Surfaces), in one share.',
  object: 'One object of the scene, glowing evenly.',
} as const;

export function PlaceLeaf({ id, light }: { id: string; light: Light }) {
  const { changeLights } = useStage();
  return (
    <div className="grid grid-cols-2 gap-x-5">
      {isPlaced(light) ? (
        <AroundHead id={id} light={light} />
      ) : light.kind === 'sun' || light.kind === 'sky' ? (
        <UnderTheSky id={id} light={light} />
      ) : light.kind === 'dome' ? (
        <div>
          <NumberField
            label="Bearing"
            unit="°"
            value={light.bearing}
            step={5}
            limits={LIMITS.turn}
            testId="bearing"
            onChange={(bearing, g) => changeLights({ bearing }, g)}
          />
          <NumberField
            label="Tilt"
            unit="°"
            value={light.tilt}
            step={5}
            limits={LIMITS.elevation}
            testId="tilt"
            onChange={(tilt, g) => changeLights({ tilt }, g)}
          />
          <p className="quiet pt-1 text-2xs">A faint dome lifts the blacks; a full one flattens the form.</p>
        </div>
      ) : (
        <div>
          <p className="quiet pt-1 text-2xs">{EVERYWHERE[light.kind]}</p>
        </div>
      )}
      <Source id={id} light={light} />
    </div>
  );
}
