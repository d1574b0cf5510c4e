import { orderOf, ROLES, sharedProperties, type Light, lightPatch } from '@plinket/core';
import { Heading, SelectField } from '../../parts/Fields.tsx';
import { useDoc, useStage } from '../context.ts';

/** Properties in words, for what a twin may have for itself. */
const WORDS: Record<string, string> = {
  on: 'on and off',
  stops: 'level',
  output: 'output',
  kelvin: 'temperature',
  tint: 'tint',
  picked: 'colour',
  gel: 'gel',
  width: 'width',
  height: 'height',
  diameter: 'diameter',
  length: 'length',
  roll: 'roll',
  beam: 'grid',
  range: 'range',
  gobo: 'gobo',
  shadow: 'shadow',
  reach: 'reach',
};

function Twin({ id, light }: { id: string; light: Light }) {
  const { change } = useStage().doc.getState();
  const { twin } = light;
  if (!twin) return null;
  const names = Object.keys(WORDS).filter((key) => key in light);
  const shared = new Set(sharedProperties(light));
  return (
    <div>
      <div className="flex items-center">
        <Heading>Shared with its twin</Heading>
        <button className="quiet ml-auto text-2xs hover:text-base-content" onClick={() => change(lightPatch(id, { twin: null }))}>
          Part them
        </button>
      </div>
      <div className="flex flex-wrap gap-1 pt-1">
        {names.map((key) => (
          <button
            key={key}
            aria-pressed={shared.has(key)}
            className={`rounded px-1.5 text-2xs ${shared.has(key) ? 'bg-base-300' : 'quiet line-through'}`}
            onClick={() =>
              change(lightPatch(id, { twin: { own: shared.has(key) ? [...twin.own, key] : twin.own.filter((o) => o !== key) } }))
            }
          >
            {WORDS[key]}
          </button>
        ))}
      </div>
    </div>
  );
}

export function NotesLeaf({ id, light }: { id: string; light: Light }) {
  const { doc, changeLights } = useStage();
  const { change } = doc.getState();
  const lights = useDoc((d) => d.setup.lights);
  const groups = [
    ...new Set(
      orderOf(lights)
        .map((o) => lights.items[o]!.group)
        .filter((g) => g !== ''),
    ),
  ];
  return (
    <div className="grid grid-cols-2 gap-x-5">
      <div>
        <SelectField
          label="Role"
          value={light.role}
          options={ROLES.map((r) => [r, r])}
          testId="role"
          onChange={(role) => changeLights({ role })}
        />
        <label className="flex h-6 items-center gap-2 border-b hairline">
          <span className="quiet flex-1">Group</span>
          <input
            className="w-28 rounded-sm bg-transparent px-1 text-right font-semibold hover:bg-base-300 focus:bg-base-300"
            list="groups"
            placeholder="none"
            maxLength={40}
            data-testid="group"
            key={`${id} ${light.group}`}
            defaultValue={light.group}
            onBlur={(e) => e.target.value.trim() !== light.group && changeLights({ group: e.target.value.trim() })}
            onKeyDown={(e) => {
              if (e.key === 'Enter') e.currentTarget.blur();
              e.stopPropagation();
            }}
          />
          <datalist id="groups">
            {groups.map((g) => (
              <option key={g} value={g} />
            ))}
          </datalist>
        </label>
        <div className="pt-1.5">
          <Twin id={id} light={light} />
        </div>
      </div>
      <textarea
        className="min-h-24 resize-none rounded-sm bg-base-200 px-2 py-1"
        placeholder="What this light is for, what must not change …"
        aria-label="Notes"
        maxLength={400}
        key={id}
        defaultValue={light.notes}
        onBlur={(e) => e.target.value !== light.notes && change(lightPatch(id, { notes: e.target.value }))}
        onKeyDown={(e) => e.stopPropagation()}
      />
    </div>
  );
}
