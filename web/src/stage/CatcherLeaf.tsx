import {
  CATCHER_DEFAULTS,
  catcherOddities,
  catcherPatch,
  catchPatch,
  hasCatcher,
  horizonOf,
  isCatcher,
  LIMITS,
  limitsTimes,
  orderOf,
  plateCameraPatch,
  shadowStagePatch,
  type CutOut,
  type Patch,
  type PlateView,
} from '@plinket/core';
import { Download } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { fromHex, toHex } from '../parts/colour.ts';
import { CheckField, ColourField, Heading, SelectField } from '../parts/Fields.tsx';
import { colourOf, letterOf } from '../parts/identity.ts';
import { NumberField } from '../parts/NumberField.tsx';
import { useDoc, useStage, useView } from './context.ts';
import { useRows } from './reach/marks.ts';

/** Which objects catch: the stage, things, whole characters. */
function Catches() {
  const { change } = useStage().doc.getState();
  const setup = useDoc((d) => d.setup);
  const { all } = useRows();
  return (
    <div>
      <Heading>Only the shadows on</Heading>
      {all.parts.map(({ rule, name, covers }) => (
        <CheckField
          key={rule}
          label={name}
          value={covers.length > 0 && covers.every((o) => isCatcher(setup.catcher, o))}
          testId={`catch-${rule}`}
          onChange={(on) => change(catchPatch(setup, rule, on))}
        />
      ))}
      <button
        className="btn btn-xs mt-1.5 w-full"
        title="A bare floor that shows nothing but shadows, over squares"
        data-testid="shadow-stage"
        onClick={() => change(shadowStagePatch(setup))}
      >
        No floor, only its shadow
      </button>
    </div>
  );
}

/** How the shadow is taken. */
function Taken() {
  const { change } = useStage().doc.getState();
  const setup = useDoc((d) => d.setup);
  const { density, contact, colour, bounce, mirror } = setup.catcher ?? CATCHER_DEFAULTS;
  const set = (patch: Patch, g?: string) => change(catcherPatch(setup, patch), g);
  const percent = (label: string, key: 'density' | 'contact', value: number) => (
    <NumberField
      label={label}
      unit="%"
      value={value * 100}
      step={5}
      limits={limitsTimes(LIMITS.unit, 100)}
      testId={`catcher-${key}`}
      onChange={(v, g) => set({ [key]: Number((v / 100).toFixed(3)) }, g)}
    />
  );
  return (
    <div>
      <Heading>Shadow</Heading>
      {percent('Density', 'density', density)}
      {percent('Contact', 'contact', contact)}
      <ColourField label="Colour" value={toHex(colour)} onChange={(hex) => set({ colour: fromHex(hex) }, 'catcher-colour')} />
      <CheckField
        label="With bounced colour"
        title="Light that others throw on it"
        value={bounce}
        testId="catcher-bounce"
        onChange={(on) => set({ bounce: on })}
      />
      <CheckField
        label="With reflections"
        title="What it mirrors of others"
        value={mirror}
        testId="catcher-mirror"
        onChange={(on) => set({ mirror: on })}
      />
    </div>
  );
}

/** Whose shadows count; balance alone, no ray. */
function Whose() {
  const { change } = useStage().doc.getState();
  const setup = useDoc((d) => d.setup);
  const without = setup.catcher?.without ?? {};
  const order = orderOf(setup.lights);
  const only = (id: string): Patch => Object.fromEntries(order.map((other) => [other, other === id ? null : true]));
  return (
    <div>
      <Heading>Shadows of</Heading>
      <ul className="flex flex-wrap gap-1 pt-1" aria-label="Lights whose shadows are shown">
        {order.map((id, index) => (
          <li key={id}>
            <button
              className={`grid size-6 place-items-center rounded-sm text-2xs font-bold ${without[id] ? 'border hairline text-base-content/70' : 'text-black'}`}
              style={without[id] ? {} : { background: colourOf(index) }}
              aria-pressed={!without[id]}
              aria-label={`Shadows of ${setup.lights.items[id]!.name}`}
              title={`${setup.lights.items[id]!.name}; double click: only this one`}
              onClick={() => change(catcherPatch(setup, { without: { [id]: without[id] ? null : true } }))}
              onDoubleClick={() => change(catcherPatch(setup, { without: only(id) }))}
            >
              {letterOf(index)}
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** The file: what is in it, and how. */
function Files() {
  const { downloadCutOut } = useStage();
  const [cut, setCut] = useState<CutOut>({ parts: 'all', deep: false, premultiplied: false });
  return (
    <div>
      <Heading>As a file</Heading>
      <SelectField
        label="Holds"
        value={cut.parts}
        options={[
          ['all', 'both'],
          ['figure', 'figure alone'],
          ['shadow', 'shadow alone'],
        ]}
        testId="cut-parts"
        onChange={(parts) => setCut({ ...cut, parts })}
      />
      <SelectField
        label="Bits"
        value={cut.deep ? '16' : '8'}
        options={[
          ['8', '8'],
          ['16', '16'],
        ]}
        testId="cut-bits"
        onChange={(bits) => setCut({ ...cut, deep: bits === '16' })}
      />
      <SelectField
        label="Colours"
        value={cut.premultiplied ? 'multiplied' : 'straight'}
        options={[
          ['straight', 'straight'],
          ['multiplied', 'times alpha'],
        ]}
        testId="cut-colours"
        onChange={(how) => setCut({ ...cut, premultiplied: how === 'multiplied' })}
      />
      <button className="btn btn-xs mt-1.5 w-full" data-testid="cut-out" onClick={() => downloadCutOut(cut)}>
        <Download size={12} /> Transparent PNG
      </button>
    </div>
  );
}

/** What the lines of a picture say, percent of its height from above, and a length, metres. */
const LINES: [key: keyof PlateView, label: string][] = [
  ['horizon', 'Horizon at'],
  ['top', 'Top at'],
  ['foot', 'Foot at'],
];

/** The camera of a picture that a figure shall stand in: from its horizon, the focal length and one known length. */
function FeetInPlate() {
  const { doc } = useStage();
  const setup = useDoc((d) => d.setup);
  const now = horizonOf(setup);
  const [lines, setLines] = useState<PlateView>({
    horizon: Number.isFinite(now) ? Math.round(now * 1000) / 1000 : 0.4,
    top: 0.3,
    foot: 0.9,
    length: 1.8,
  });
  const match = () => {
    try {
      doc.getState().change(plateCameraPatch(setup, lines));
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <div className="col-span-2" data-testid="feet-in-plate">
      <Heading>Feet in the picture behind</Heading>
      <div className="grid grid-cols-2 gap-x-5">
        {LINES.map(([key, label]) => (
          <NumberField
            key={key}
            label={label}
            unit="%"
            value={lines[key] * 100}
            step={1}
            digits={1}
            limits={[-200, 300]}
            testId={`plate-${key}`}
            onChange={(v) => setLines((l) => ({ ...l, [key]: v / 100 }))}
          />
        ))}
        <NumberField
          label="Between them"
          unit="m"
          value={lines.length}
          step={0.05}
          digits={2}
          limits={[0.01, 100]}
          testId="plate-length"
          onChange={(length) => setLines((l) => ({ ...l, length }))}
        />
      </div>
      <button
        className="btn btn-xs mt-1.5 w-full"
        data-testid="match-plate"
        title="Height and tilt of the camera; its focal length stays"
        onClick={match}
      >
        Match the camera
      </button>
    </div>
  );
}

/** What shows nothing of itself but shadows, for a picture behind, and the file that carries it there. */
export function CatcherLeaf() {
  const { view } = useStage();
  const setup = useDoc((d) => d.setup);
  const { all } = useRows();
  const alpha = useView((v) => v.mode === 'alpha');
  const odd = catcherOddities(setup, all.covers);
  return (
    <div className="grid grid-cols-2 gap-x-5 gap-y-1" data-testid="catcher">
      <Catches />
      <Taken />
      <div>
        <Whose />
        {hasCatcher(setup) && (
          <button
            className="btn btn-xs mt-1.5 w-full"
            aria-pressed={alpha}
            onClick={() => view.setState({ mode: alpha ? 'light' : 'alpha' })}
          >
            {alpha ? 'Show the picture' : 'Show the alpha'}
          </button>
        )}
        {odd.map((words) => (
          <p key={words} className="pt-1 text-2xs text-warning">
            {words}
          </p>
        ))}
      </div>
      <Files />
      <FeetInPlate />
    </div>
  );
}
