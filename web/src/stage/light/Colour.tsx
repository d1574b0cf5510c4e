import {
  orderOf,
  complementKelvin,
  complementOf,
  GELS,
  gelTransmission,
  lightColour,
  sourceColour,
  strengthWord,
  type Light,
  type Vec3,
  LIMITS,
  limitsTimes,
} from '@plinket/core';
import { NumberField } from '../../parts/NumberField.tsx';
import { cssColour, fromHex, swatch, toHex } from '../../parts/colour.ts';
import { ColourField, Heading, SelectField } from '../../parts/Fields.tsx';
import { letterOf } from '../../parts/identity.ts';
import { useDoc, useStage } from '../context.ts';

/** Colours act sooner than one thinks: the field says how it reads. */
const STRENGTHS = { none: 'Strength', hint: 'A hint of it', clear: 'Clear', strong: 'Strong' } as const;

const top = (c: Vec3): Vec3 => {
  const most = Math.max(...c, 1e-6);
  return c.map((v) => Math.min(1, Math.max(0, v / most))) as Vec3;
};

/** The complement of the light that leads: a hint of it is often all that a second light needs. */
function Complement({ id, light }: { id: string; light: Light }) {
  const { changeLights } = useStage();
  const lights = useDoc((d) => d.setup.lights);
  const white = useDoc((d) => d.setup.look.white);
  const other = orderOf(lights).find((o) => o !== id && lights.items[o]!.role === 'key') ?? orderOf(lights).find((o) => o !== id);
  if (other === undefined) return null;
  const lead = lights.items[other]!;
  const picked = lead.picked.strength > 0;
  const kelvin = Math.round(complementKelvin(lead.kelvin, white) / 100) * 100;
  const apply = () =>
    changeLights(
      picked
        ? { picked: { colour: top(complementOf(top(sourceColour(lead)))), strength: 0.15 } }
        : { kelvin, picked: { colour: [1, 1, 1], strength: 0 } },
    );
  const shown = picked
    ? complementOf(top(sourceColour(lead)))
    : lightColour({ ...light, kelvin, tint: 0, gel: '', picked: { colour: [1, 1, 1], strength: 0 } } as Light);
  return (
    <button
      className="btn btn-xs mt-1.5 w-full justify-start font-medium"
      onClick={apply}
      title="As far on the other side of white; colour last, and lightly"
    >
      <i className="h-3 w-3 rounded-[2px]" style={{ background: cssColour(shown) }} />
      Complement of {letterOf(orderOf(lights).indexOf(other))}: {picked ? 'a hint' : `${kelvin} K`}
    </button>
  );
}

export function ColourLeaf({ id, light }: { id: string; light: Light }) {
  const { changeLights } = useStage();
  return (
    <div className="grid grid-cols-2 gap-x-5">
      <div>
        <Heading>White</Heading>
        <div className="flex items-center gap-1.5">
          <i className="h-3 w-3 shrink-0 rounded-[2px]" style={{ background: swatch(light) }} />
          <div className="flex-1">
            <NumberField
              label="Temperature"
              unit="K"
              value={light.kelvin}
              step={100}
              limits={LIMITS.kelvin}
              testId="kelvin"
              onChange={(kelvin, g) => changeLights({ kelvin }, g)}
            />
          </div>
        </div>
        <NumberField
          label={light.tint > 0 ? 'Tint, green' : light.tint < 0 ? 'Tint, magenta' : 'Tint'}
          unit="Duv‰"
          value={light.tint}
          step={1}
          limits={LIMITS.tint}
          testId="tint"
          onChange={(tint, g) => changeLights({ tint }, g)}
        />
        <Complement id={id} light={light} />
      </div>
      <div>
        <Heading>Colour, last and lightly</Heading>
        <ColourField
          label="Picked"
          value={toHex(light.picked.colour)}
          testId="picked"
          onChange={(hex) => changeLights({ picked: { colour: fromHex(hex), strength: light.picked.strength || 0.15 } }, `picked-${id}`)}
        />
        <NumberField
          label={STRENGTHS[strengthWord(light.picked.strength)]}
          unit="%"
          value={light.picked.strength * 100}
          step={5}
          limits={limitsTimes(LIMITS.unit, 100)}
          testId="strength"
          onChange={(v, g) => changeLights({ picked: { strength: v / 100 } }, g)}
        />
        <div className="flex items-center gap-1.5">
          <i
            className="h-3 w-3 shrink-0 rounded-[2px]"
            style={{ background: light.gel ? cssColour(gelTransmission(light.gel, light.kelvin)) : 'transparent' }}
          />
          <div className="flex-1">
            <SelectField
              label="Gel"
              value={light.gel}
              options={[['', 'none'], ...GELS.map((g) => [g.id, g.name] as const)]}
              testId="gel"
              onChange={(gel) => changeLights({ gel })}
            />
          </div>
        </div>
        <NumberField
          label="Scrims"
          unit="½ st"
          value={light.scrims}
          step={1}
          limits={LIMITS.scrims}
          testId="scrims"
          onChange={(v, g) => changeLights({ scrims: Math.round(v) }, g)}
        />
      </div>
    </div>
  );
}
