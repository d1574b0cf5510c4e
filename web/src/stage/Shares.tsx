import {
  orderChange,
  orderOf,
  formatStops,
  isBounded,
  isPlaced,
  ROLES,
  type Light,
  type Patch,
  type Setup,
  lightPatch,
  stopsPatch,
} from '@plinket/core';
import { ArrowDownAZ, ChevronLeft, ChevronRight, Ear, Eye, EyeOff, Link2, Lock, Plus, Target } from 'lucide-react';
import { swatch } from '../parts/colour.ts';
import { colourOf, letterOf } from '../parts/identity.ts';
import { HeldBy } from './company.tsx';
import { inHand, useDoc, useStage, useView } from './context.ts';
import { Thumb } from './Thumb.tsx';

const degrees = (v: number): string => `${Math.round(v)}°`.replace('-', '−');
const cm = (v: number): string => `${Math.round(v * 100)}`;

/** Where a light stands, in words. */
export function placeWords(light: Light): string {
  if (isPlaced(light))
    return `round ${degrees(light.place.azimuth)} · up ${degrees(light.place.elevation)} · ${light.place.distance.toFixed(2)} m`;
  switch (light.kind) {
    case 'sun':
    case 'sky':
      return `${degrees(light.elevation)} high · bearing ${degrees(light.bearing)}`;
    case 'dome':
      return light.fill.kind === 'even' ? 'the same from everywhere' : `turned ${degrees(light.bearing)}`;
    case 'object':
      return light.object;
    case 'glow':
      return 'surfaces that glow';
  }
}

/** What a light is, in words. */
export function sourceWords(light: Light): string {
  switch (light.kind) {
    case 'rectangle':
    case 'disk':
      return `${cm(light.width)} × ${cm(light.height)} cm`;
    case 'ball':
      return `ball ${cm(light.diameter)} cm`;
    case 'tube':
      return `tube ${cm(light.length)} cm`;
    case 'spot':
      return `spot ${degrees(light.angle)}`;
    case 'profile':
      return 'measured';
    case 'sun':
      return `sun ${light.angle}°`;
    case 'sky':
      return 'sky';
    case 'dome':
      return light.fill.kind;
    case 'object':
    case 'glow':
      return 'glows';
  }
}

function ShareCard({ id, index, light }: { id: string; index: number; light: Light }) {
  const { doc, view, select, episodes } = useStage();
  const selected = useView((v) => v.selected === id);
  const joined = useView((v) => v.also.includes(id));
  const solo = useView((v) => v.solo.includes(id));
  const { change } = doc.getState();
  const letter = letterOf(index);
  // a card that is in hand with others speaks for all of them
  const each = (make: (i: string, l: Light) => Patch, gesture?: string) => {
    const { setup } = doc.getState(),
      hand = inHand(view.getState());
    const items = (hand.includes(id) ? hand : [id]).flatMap((i) => {
      const l = setup.lights.items[i];
      return l ? Object.entries((make(i, l)['lights'] as { items: Patch }).items) : [];
    });
    change({ lights: { items: Object.fromEntries(items) } }, gesture);
  };
  const level = (by: number) => each((i, l) => stopsPatch(i, l, by), episodes.name(`level-${id}`, performance.now()));
  return (
    <li className="relative w-[166px] shrink-0 pt-4" data-testid={`card-${id}`}>
      <span
        className="absolute top-0.5 left-2.5 grid h-[15px] min-w-6 place-items-center px-1 rounded-t-[3px] text-2xs font-bold text-black"
        style={{ background: colourOf(index) }}
      >
        {letter}
      </span>
      <div
        className={`rounded border bg-base-100 ${selected ? 'border-base-content' : joined ? 'border-base-content/60' : 'hairline'} ${light.on ? '' : 'opacity-55'}`}
        style={{ borderTopColor: colourOf(index) }}
      >
        <button
          className="block w-full text-left"
          aria-pressed={selected || joined}
          aria-label={`${letter} ${light.name}`}
          title="Shift or Ctrl: together with others"
          onClick={(e) =>
            select(selected && !e.shiftKey && !e.ctrlKey && !e.metaKey ? undefined : id, e.shiftKey || e.ctrlKey || e.metaKey)
          }
        >
          <Thumb id={id} height={84} testId={`thumb-${id}`} />
          <span className="flex items-baseline justify-between px-2 pt-1">
            <b className="truncate">{light.name}</b>
            <span className="quiet shrink-0 text-2xs whitespace-nowrap">{sourceWords(light)}</span>
          </span>
        </button>
        <div className="flex items-center gap-1 px-2">
          <button
            className="quiet px-0.5 text-base leading-none hover:text-base-content"
            aria-label={`${light.name} a third of a stop down`}
            onClick={() => level(-1 / 3)}
          >
            −
          </button>
          <span className="min-w-8 text-center text-base font-semibold" data-testid={`stops-${id}`}>
            {formatStops(light.stops)}
          </span>
          <span className="quiet text-2xs">st</span>
          <button
            className="quiet px-0.5 text-base leading-none hover:text-base-content"
            aria-label={`${light.name} a third of a stop up`}
            onClick={() => level(1 / 3)}
          >
            +
          </button>
          <span className="ml-auto flex items-center gap-1 text-2xs">
            <i className="inline-block h-2.5 w-2.5 rounded-[2px]" style={{ background: swatch(light) }} />
            {Math.round(light.kelvin)} K
          </span>
        </div>
        <div className="flex items-center justify-between px-2 pb-1 text-2xs">
          <span className="quiet truncate">{placeWords(light)}</span>
          <span className="quiet flex gap-0.5">
            {isBounded(light.reach) && <Target size={10} aria-label="does not reach all" />}
            {light.twin && <Link2 size={10} aria-label="has a twin" />}
            {light.locked && <Lock size={10} aria-label="locked" />}
          </span>
        </div>
      </div>
      <HeldBy light={id} />
      <div className="absolute top-[19px] right-1 flex gap-0.5">
        <button
          className={`rounded-sm p-1.5 ${solo ? 'bg-warning text-black' : 'bg-black/55 text-white/85 hover:bg-black/80'}`}
          aria-pressed={solo}
          aria-label={`${light.name} alone`}
          title="Solo (Enter); Shift: several"
          onClick={(e) => view.setState((v) => ({ solo: soloed(v.solo, id, e.shiftKey) }))}
        >
          <Ear size={13} />
        </button>
        <button
          className="rounded-sm bg-black/55 p-1.5 text-white/85 hover:bg-black/80"
          aria-pressed={light.on}
          aria-label={`${light.name} ${light.on ? 'off' : 'on'}`}
          title="Off and on (Backspace)"
          onClick={() => each((i) => lightPatch(i, { on: !light.on }))}
        >
          {light.on ? <Eye size={13} /> : <EyeOff size={13} />}
        </button>
      </div>
    </li>
  );
}

/** Lights that are heard alone once one is asked for: it, or it among the others. */
export const soloed = (now: readonly string[], id: string, more: boolean): string[] =>
  now.includes(id) ? now.filter((s) => s !== id) : more ? [...now, id] : [id];

/** Lights in their order, with the folded groups as one. */
export function stacks(lights: Setup['lights'], folded: readonly string[]): { group: string; ids: string[]; folded: boolean }[] {
  const out: { group: string; ids: string[]; folded: boolean }[] = [];
  for (const id of orderOf(lights)) {
    const { group } = lights.items[id]!;
    const last = out.at(-1);
    if (group !== '' && last?.group === group) last.ids.push(id);
    else out.push({ group, ids: [id], folded: group !== '' && folded.includes(group) });
  }
  return out;
}

/** The order that puts roles in the order in which light is designed, groups together. */
export function byRole(lights: Setup['lights']): string[] {
  const first = (id: string): number => {
    const { group } = lights.items[id]!;
    const mates = group === '' ? [id] : orderOf(lights).filter((o) => lights.items[o]!.group === group);
    return Math.min(...mates.map((m) => ROLES.indexOf(lights.items[m]!.role)));
  };
  return [...orderOf(lights)].sort(
    (a, b) =>
      first(a) - first(b) ||
      lights.items[a]!.group.localeCompare(lights.items[b]!.group) ||
      ROLES.indexOf(lights.items[a]!.role) - ROLES.indexOf(lights.items[b]!.role) ||
      orderOf(lights).indexOf(a) - orderOf(lights).indexOf(b),
  );
}

/** Sorts the lights by role. */
export const sortPatch = ({ lights }: Setup): Patch => ({ lights: { items: orderChange(lights, byRole(lights)) as unknown as Patch } });

/** The edge of a group's cards: its name, folding, and hearing it alone. */
function GroupEdge({ group, ids, folded }: { group: string; ids: string[]; folded: boolean }) {
  const { view } = useStage();
  const alone = useView((v) => v.solo.length > 0 && ids.every((id) => v.solo.includes(id)) && v.solo.length === ids.length);
  const fold = () => view.setState((v) => ({ folded: folded ? v.folded.filter((g) => g !== group) : [...v.folded, group] }));
  return (
    <li className="flex w-6 shrink-0 flex-col items-center pt-4">
      <div className="flex h-[155px] w-full flex-col items-center gap-1 rounded border hairline bg-base-100 py-1">
        <button
          aria-label={folded ? `Open ${group}` : `Fold ${group}`}
          aria-expanded={!folded}
          onClick={fold}
          className="quiet hover:text-base-content"
        >
          {folded ? <ChevronRight size={13} /> : <ChevronLeft size={13} />}
        </button>
        <button
          aria-label={`${group} alone`}
          aria-pressed={alone}
          className={alone ? 'rounded-sm bg-warning text-black' : 'quiet hover:text-base-content'}
          onClick={() => view.setState({ solo: alone ? [] : ids })}
        >
          <Ear size={12} />
        </button>
        <span className="flex-1 truncate text-2xs [writing-mode:vertical-rl]">
          {group}
          {folded && ` · ${ids.length}`}
        </span>
      </div>
    </li>
  );
}

/** The lights as cards, each with its own live picture. */
export function Shares() {
  const { doc, view } = useStage();
  const lights = useDoc((d) => d.setup.lights);
  const folded = useView((v) => v.folded);
  const sort = () => doc.getState().change(sortPatch(doc.getState().setup));
  return (
    <section aria-label="Shares" className="border-t hairline bg-base-200">
      <ol className="flex gap-2.5 overflow-x-auto px-3 pt-1 pb-2">
        {stacks(lights, folded).map((stack) => [
          stack.group !== '' && <GroupEdge key={`group ${stack.group} ${stack.ids[0]}`} {...stack} />,
          ...(stack.folded ? [] : stack.ids).map((id) => (
            <ShareCard key={id} id={id} index={orderOf(lights).indexOf(id)} light={lights.items[id]!} />
          )),
        ])}
        <li className="flex w-[92px] shrink-0 flex-col gap-1 pt-4">
          <button
            className="quiet grid min-h-0 flex-1 place-items-center rounded border border-dashed hairline hover:text-base-content"
            onClick={() => view.setState({ shelf: true })}
          >
            <span className="grid place-items-center gap-1">
              <Plus size={16} />
              Add light
            </span>
          </button>
          {orderOf(lights).length > 2 && (
            <button
              className="quiet flex items-center justify-center gap-1 rounded border hairline py-0.5 text-2xs hover:text-base-content"
              onClick={sort}
            >
              <ArrowDownAZ size={11} /> By role
            </button>
          )}
        </li>
      </ol>
    </section>
  );
}
