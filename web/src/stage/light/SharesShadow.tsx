import { LIMITS, limitsTimes } from '@plinket/core';
import type { Light } from '@plinket/core';
import { NumberField } from '../../parts/NumberField.tsx';
import { fromHex, toHex } from '../../parts/colour.ts';
import { CheckField, ColourField, Heading } from '../../parts/Fields.tsx';
import { useStage } from '../context.ts';

const SHARES = [
  ['diffuse', 'Diffuse'],
  ['specular', 'Specular'],
  ['volume', 'In haze'],
] as const;

/** How much of each of the light's layers is heard, who sees its source, and what its shadow takes. */
export function SharesLeaf({ light }: { light: Light }) {
  const { changeLights } = useStage();
  return (
    <div className="grid grid-cols-2 gap-x-5">
      <div>
        <Heading>Shares</Heading>
        {SHARES.map(([key, label]) => (
          <NumberField
            key={key}
            label={label}
            unit="%"
            value={light[key] * 100}
            step={5}
            limits={limitsTimes(LIMITS.share, 100)}
            testId={`layer-${key}`}
            onChange={(v, g) => changeLights({ [key]: v / 100 }, g)}
          />
        ))}
        <div className="pt-1.5">
          <Heading>The source is seen</Heading>
        </div>
        <CheckField
          label="by the camera"
          title="Its light never changes"
          value={light.seen.camera}
          testId="seen-camera"
          onChange={(camera) => changeLights({ seen: { camera } })}
        />
        <CheckField
          label="in eyes and metal"
          title="Its mirror image on smooth surfaces"
          value={light.seen.mirror}
          testId="seen-mirror"
          onChange={(mirror) => changeLights({ seen: { mirror } })}
        />
      </div>
      <div>
        <Heading>Shadow</Heading>
        <CheckField
          label="Casts a shadow"
          value={light.shadow.cast}
          testId="shadow-cast"
          onChange={(cast) => changeLights({ shadow: { cast } })}
        />
        {light.shadow.cast && (
          <>
            <NumberField
              label="Density"
              unit="%"
              value={light.shadow.density * 100}
              step={5}
              limits={limitsTimes(LIMITS.unit, 100)}
              testId="shadow-density"
              onChange={(v, g) => changeLights({ shadow: { density: v / 100 } }, g)}
            />
            <ColourField
              label="Colour left in it"
              value={toHex(light.shadow.colour)}
              testId="shadow-colour"
              onChange={(hex) => changeLights({ shadow: { colour: fromHex(hex) } }, 'shadow-colour')}
            />
          </>
        )}
        {(!light.shadow.cast || light.shadow.density < 1 || light.shadow.colour.some((v) => v > 0)) && (
          <p className="pt-1 text-2xs text-warning">not as light does it</p>
        )}
      </div>
    </div>
  );
}
