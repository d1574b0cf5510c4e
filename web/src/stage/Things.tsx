import { orderOf, type Patch, type Prop, addBallsPatch, addThingPatch, LIMITS, type Limits, THINGS, type Thing } from '@plinket/core';
import { Heading, SelectField } from '../parts/Fields.tsx';
import { NumberField, PlaceField } from '../parts/NumberField.tsx';
import { useDoc, useStage } from './context.ts';
import { letters } from '../parts/letters.ts';

/** Which measures a thing has, how they are called and how far they go. */
const MEASURES: Record<'plinth' | 'steps', [key: string, label: string, unit: string, step: number, limits: Limits][]> = {
  plinth: [
    ['width', 'wide', 'm', 0.05, LIMITS.thingWidth],
    ['height', 'tall', 'm', 0.05, LIMITS.thingHeight],
  ],
  steps: [
    ['width', 'wide', 'm', 0.05, LIMITS.thingWidth],
    ['tread', 'tread', 'm', 0.05, LIMITS.tread],
    ['rise', 'riser', 'm', 0.01, LIMITS.rise],
    ['count', 'how many', '', 1, LIMITS.steps],
    ['turn', 'turned', '°', 5, LIMITS.thingTurn],
  ],
};

/** One thing that a figure stands on: where it is and how large. */
function ThingFields({ id, prop }: { id: string; prop: Exclude<Prop, { kind: 'ball' }> }) {
  const { change } = useStage().doc.getState();
  const set = (patch: Patch, g?: string) => change({ props: { items: { [id]: patch } } }, g);
  const [x, y, z] = prop.position;
  return (
    <div className="pb-1" data-testid={`thing-${id}`}>
      <div className="flex items-baseline gap-2">
        <span className="flex-1 truncate font-semibold">{prop.name}</span>
        <button className="quiet text-2xs hover:text-base-content" onClick={() => change({ props: { items: { [id]: null } } })}>
          take away
        </button>
      </div>
      {MEASURES[prop.kind].map(([key, label, unit, step, limits]) => (
        <NumberField
          key={key}
          label={label}
          unit={unit}
          value={(prop as unknown as Record<string, number>)[key]!}
          step={step}
          digits={step < 1 ? 2 : 0}
          limits={limits}
          onChange={(v, g) => set({ [key]: key === 'count' ? Math.round(v) : v }, g)}
        />
      ))}
      <PlaceField label="aside" value={x} onChange={(v, g) => set({ position: [v, y, z] }, g)} />
      <PlaceField label="forward" value={z} onChange={(v, g) => set({ position: [x, y, v] }, g)} />
    </div>
  );
}

/** Balls that judge light, plinths and steps that figures stand on. */
export function Things() {
  const { doc } = useStage();
  const setup = useDoc((d) => d.setup);
  const { props } = setup;
  const { change } = doc.getState();
  const balls = orderOf(props).filter((id) => props.items[id]!.kind === 'ball');
  const without = (ids: string[]): Patch => ({
    props: { items: Object.fromEntries(ids.map((id) => [id, null])) },
  });
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
          change(addBallsPatch(setup));
        }}
      >
        {balls.length ? 'Take the balls away' : 'Chrome and grey balls'}
      </button>
      {orderOf(props).map((id) => {
        const prop = props.items[id]!;
        return prop.kind === 'ball' ? null : <ThingFields key={id} id={id} prop={prop} />;
      })}
      <SelectField
        label="To stand on"
        value=""
        options={[['', 'add …'], ...Object.entries(THINGS)]}
        testId="add-thing"
        onChange={(thing) => thing !== '' && change(addThingPatch(setup, thing as Thing, letters()))}
      />
    </div>
  );
}
