import { formatStops, lightLuminance, panelFlux, panelLuminance, type Light, type RectangleLight } from '@plinket/core';
import { Crosshair, Telescope, Trash2 } from 'lucide-react';
import { NumberField } from '../parts/NumberField.tsx';
import { swatch } from '../parts/colour.ts';
import { colourOf, letterOf } from '../parts/identity.ts';
import { useDoc, useStage, useView } from './context.ts';
import { lightPatch, placePatch, removeLightPatch } from './moves.ts';

function Place({ id, light }: { id: string; light: RectangleLight }) {
  const { doc, view } = useStage();
  const along = useView((v) => v.along === id);
  const { change } = doc.getState();
  const { place } = light;
  const atHead = place.aim.every((v) => v === 0);
  return (
    <div>
      <h3 className="caps quiet">Place</h3>
      <NumberField
        label="Azimuth"
        unit="°"
        value={place.azimuth}
        step={1}
        min={-180}
        max={180}
        testId="azimuth"
        onChange={(azimuth, g) => change(placePatch(id, { azimuth }), g)}
      />
      <NumberField
        label="Elevation"
        unit="°"
        value={place.elevation}
        step={1}
        min={-90}
        max={90}
        testId="elevation"
        onChange={(elevation, g) => change(placePatch(id, { elevation }), g)}
      />
      <NumberField
        label="Distance"
        unit="m"
        value={place.distance}
        step={0.05}
        digits={2}
        min={0.1}
        max={50}
        testId="distance"
        onChange={(distance, g) => change(placePatch(id, { distance }), g)}
      />
      <div className="flex gap-1.5 pt-1.5">
        <button
          className="btn btn-xs flex-1 px-1.5 font-medium whitespace-nowrap disabled:text-base-content/60"
          disabled={atHead}
          onClick={() => change(placePatch(id, { aim: [0, 0, 0] }))}
          title="H"
        >
          <Crosshair size={12} /> {atHead ? 'At head' : 'Aim at head'}
        </button>
        <button
          className={`btn btn-xs px-1.5 whitespace-nowrap ${along ? 'btn-warning' : ''}`}
          aria-pressed={along}
          title="L"
          onClick={() => view.setState({ along: along ? undefined : id })}
        >
          <Telescope size={12} /> Look along
        </button>
      </div>
    </div>
  );
}

/** Output as what is held: a total in lumens or a luminance; switching keeps the light as it is. */
function Output({ id, light }: { id: string; light: Light }) {
  const { change } = useStage().doc.getState();
  const { held, value } = light.output;
  const flux = held === 'flux';
  const swap = () => {
    if (light.kind !== 'rectangle') return;
    const area = light.width * light.height;
    change(
      lightPatch(id, {
        output: flux
          ? { held: 'luminance', value: +panelLuminance(value, area).toPrecision(6) }
          : { held: 'flux', value: +panelFlux(lightLuminance(light), area).toPrecision(6) },
      }),
    );
  };
  const step = value >= 1000 ? 50 : value >= 100 ? 10 : 1;
  return (
    <>
      <NumberField
        label="Output"
        unit={light.kind === 'glow' ? '×' : flux ? 'lm' : 'cd/m²'}
        value={value}
        step={step}
        min={0.01}
        max={1e8}
        testId="output"
        onChange={(v, g) => change(lightPatch(id, { output: { value: v } }), g)}
      />
      {light.kind === 'rectangle' && (
        <label className="flex h-6 items-center gap-2 border-b hairline">
          <span className="quiet flex-1">Resizing keeps</span>
          <select
            className="rounded-sm bg-base-200 px-1 text-right font-semibold"
            value={held}
            onChange={swap}
            aria-label="What stays when the size changes"
          >
            <option value="luminance">luminance</option>
            <option value="flux">total</option>
          </select>
        </label>
      )}
    </>
  );
}

const SHARES = [
  ['diffuse', 'Diffuse'],
  ['specular', 'Specular'],
  ['volume', 'In haze'],
] as const;

/** How much of each of the light's layers is heard. */
function Layers({ id, light }: { id: string; light: Light }) {
  const { change } = useStage().doc.getState();
  return (
    <div className="grid grid-cols-3 gap-x-4">
      {SHARES.map(([key, label]) => (
        <NumberField
          key={key}
          label={label}
          unit="%"
          value={light[key] * 100}
          step={5}
          min={0}
          max={400}
          testId={`layer-${key}`}
          onChange={(v, g) => change(lightPatch(id, { [key]: v / 100 }), g)}
        />
      ))}
    </div>
  );
}

export function LightSheet({ id, light }: { id: string; light: Light }) {
  const { doc, view } = useStage();
  const index = useDoc((d) => d.setup.lights.order.indexOf(id));
  const { change } = doc.getState();
  const remove = () => {
    view.setState({ selected: undefined, solo: undefined, along: undefined });
    change(removeLightPatch(doc.getState().setup, id));
  };
  return (
    <div data-testid="light-sheet">
      <div className="flex items-center gap-2 py-1">
        <span className="grid h-5 w-6 place-items-center rounded-sm text-2xs font-bold text-black" style={{ background: colourOf(index) }}>
          {letterOf(index)}
        </span>
        <input
          className="min-w-0 flex-1 rounded-sm bg-transparent px-1 font-semibold hover:bg-base-300 focus:bg-base-300"
          aria-label="Name of the light"
          key={light.name}
          defaultValue={light.name}
          maxLength={60}
          onBlur={(e) => e.target.value.trim() && e.target.value !== light.name && change(lightPatch(id, { name: e.target.value.trim() }))}
          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
        />
        <button className="btn btn-ghost btn-xs" aria-label={`Remove ${light.name}`} onClick={remove}>
          <Trash2 size={13} /> Remove
        </button>
      </div>
      <div className="grid grid-cols-2 gap-x-5">
        {light.kind === 'rectangle' ? (
          <Place id={id} light={light} />
        ) : (
          <div>
            <h3 className="caps quiet">Place</h3>
            <p className="quiet pt-1 text-2xs">
              {light.kind === 'dome'
                ? 'The same light from everywhere. A faint one lifts the blacks; a full one flattens the form.'
                : 'All surfaces with light of their own, as bright as their materials say (Surfaces), in one share.'}
            </p>
          </div>
        )}
        <div>
          <h3 className="caps quiet">Source</h3>
          <NumberField
            label="Level"
            unit="stops"
            value={light.stops}
            step={1 / 3}
            min={-20}
            max={20}
            format={formatStops}
            testId="level"
            onChange={(stops, g) => change(lightPatch(id, { stops: Math.round(stops * 1e4) / 1e4 }), g)}
          />
          {light.kind === 'rectangle' && (
            <>
              <NumberField
                label="Width"
                unit="cm"
                value={light.width * 100}
                step={5}
                min={1}
                max={2000}
                testId="width"
                onChange={(v, g) => change(lightPatch(id, { width: v / 100 }), g)}
              />
              <NumberField
                label="Height"
                unit="cm"
                value={light.height * 100}
                step={5}
                min={1}
                max={2000}
                testId="height"
                onChange={(v, g) => change(lightPatch(id, { height: v / 100 }), g)}
              />
            </>
          )}
          <Output id={id} light={light} />
          <div className="flex items-center gap-1.5">
            <i className="h-3 w-3 shrink-0 rounded-[2px]" style={{ background: swatch(light.kelvin) }} />
            <div className="flex-1">
              <NumberField
                label="Colour"
                unit="K"
                value={light.kelvin}
                step={100}
                min={1000}
                max={25000}
                testId="kelvin"
                onChange={(kelvin, g) => change(lightPatch(id, { kelvin }), g)}
              />
            </div>
          </div>
        </div>
      </div>
      <h3 className="caps quiet pt-2">Shares</h3>
      <Layers id={id} light={light} />
    </div>
  );
}
