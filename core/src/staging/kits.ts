// Kits: parts of a setup taken for the shelf, and put under another character, right at once: everything goes by the head.
import { clamp } from '../math/index.ts';
import {
  anyonesPart,
  diff,
  freeId,
  KIT_VERSION,
  LIMITS,
  NO_HEAD,
  orderOf,
  partsOf,
  setupHead,
  withRanks,
  type Collection,
  type FlagItem,
  type Kit,
  type KitIds,
  type KitPart,
  type KitRig,
  type Light,
  type Patch,
  type Reach,
  type Setup,
  type Tie,
} from '../setup/index.ts';
import { Scaling } from './scaling.ts';

/** What a kit is called, and what is said of it. */
export type KitLabel = Pick<Kit, 'name' | 'brief' | 'notes' | 'tags' | 'shows'> & Partial<Pick<Kit, 'shown'>>;

/** A kit, and what of the setup it could not take, in words. */
export interface TakenKit {
  kit: Kit;
  left: string[];
  /** Under which id what has one in the kit stands in the setup that it was taken from. */
  ids: KitIds;
}

/** A rule of reach as it holds for whoever the kit is put on; nothing where it names a thing that stays behind. */
function generalRule(rule: string): string | undefined {
  if (anyonesPart(rule) !== undefined || !rule.includes('/')) return rule;
  const [kind, , ...part] = rule.split('/');
  if (kind === 'stage') return rule;
  if (kind !== 'subjects') return undefined;
  return part.length ? `subjects/*/${part.join('/')}` : 'subjects';
}

function generalReach(reach: Reach, left: (rule: string) => void): Reach {
  const of = <T>(rules: Record<string, T>): Record<string, T> =>
    Object.fromEntries(
      Object.entries(rules).flatMap(([rule, is]) => {
        const general = generalRule(rule);
        if (general === undefined) left(rule);
        return general === undefined ? [] : [[general, is]];
      }),
    );
  return { lights: of(reach.lights), casts: of(reach.casts), ...(reach.shadows ? { shadows: of(reach.shadows) } : {}) };
}

type Called = { [kind in keyof KitIds]: (id: string) => string };

/** What a kit calls what stands in a setup: as it did before, where it is known, else as the setup does. */
function calledBy(ids: KitIds | undefined): { called: Called; ids: KitIds } {
  const made: KitIds = { lights: {}, flags: {}, cameras: {} };
  const of = (kind: keyof KitIds) => {
    const before = new Map(Object.entries(ids?.[kind] ?? {}).map(([kit, here]) => [here, kit]));
    return (here: string): string => {
      const known = Object.entries(made[kind]).find(([, h]) => h === here)?.[0];
      const id =
        known ??
        before.get(here) ??
        (Object.hasOwn({ ...ids?.[kind], ...made[kind] }, here) ? freeId({ ...ids?.[kind], ...made[kind] }, here) : here);
      made[kind][id] = here;
      return id;
    };
  };
  return { called: { lights: of('lights'), flags: of('flags'), cameras: of('cameras') }, ids: made };
}

/** What of a setup's lights and flags goes into a kit: those that stand about no other character and are no object. */
function rigOf(setup: Setup, scaling: Scaling, { lights: called, flags: flagged }: Called, left: string[]): KitRig {
  const lights: KitRig['lights'] = { items: {} },
    flags: KitRig['flags'] = { items: {} },
    taken = new Set<string>();
  for (const id of orderOf(setup.lights)) {
    const light = setup.lights.items[id]!;
    if (light.kind === 'object') {
      left.push(`${light.name}: it is an object of this setup`);
      continue;
    }
    const { around: _, reach, ...rest } = scaling.light(light) as Light & { around?: string };
    const general = reach && generalReach(reach, (rule) => left.push(`what ${light.name} does with ${rule}`));
    taken.add(id);
    lights.items[called(id)] = { ...rest, ...(general ? { reach: general } : {}) } as Light;
  }
  for (const id of orderOf(setup.flags)) {
    const { around: _, ...flag } = scaling.flag(setup.flags.items[id]!);
    const before = flag.lights.filter((l) => taken.has(l)).map(called);
    // one that stood before lights that stay behind must not stand before all
    if (flag.lights.length === 0 || before.length > 0) flags.items[flagged(id)] = { ...flag, lights: before };
  }
  return { lights, flags, ev: setup.camera.ev };
}

/**
 * Takes parts of a setup as a kit: numbers become those of the reference head.
 * @param known ids of a kit that stands here and is taken anew: what came from it keeps them
 */
export function kitOf(setup: Setup, parts: readonly KitPart[], label: KitLabel, known?: KitIds): TakenKit {
  const head = setupHead(setup),
    scaling = new Scaling(NO_HEAD.headHeight / head.headHeight),
    left: string[] = [];
  const has = (part: KitPart) => parts.includes(part);
  const { called, ids } = calledBy(known);
  const kit: Kit = {
    schemaVersion: KIT_VERSION,
    shown: [],
    ...label,
    parts: {
      ...(has('rig') ? { rig: rigOf(setup, scaling, called, left) } : {}),
      ...(has('stage') ? { stage: { stage: scaling.stage(setup.stage), plate: setup.plate, haze: scaling.haze(setup.haze) } } : {}),
      ...(has('cameras')
        ? {
            cameras: {
              camera: scaling.camera(setup.camera, head, NO_HEAD),
              cameras: {
                items: Object.fromEntries(
                  Object.entries(setup.cameras.items).map(([id, c]) => [called.cameras(id), scaling.camera(c, head, NO_HEAD)]),
                ),
              },
            },
          }
        : {}),
      ...(has('look') ? { look: setup.look } : {}),
      ...(has('targets') && setup.targets ? { targets: setup.targets } : {}),
      ...(has('turntable') && setup.turntable ? { turntable: setup.turntable } : {}),
    },
  };
  // the key is said by the id that it has in the setup
  const key =
    has('rig') && label.shows?.key !== undefined
      ? Object.entries(ids.lights).find(([, here]) => here === label.shows!.key)?.[0]
      : undefined;
  if (key !== undefined) kit.shows = { ...label.shows, key };
  return { kit, left: [...left, ...scaling.short], ids };
}

export interface PutWish {
  /** Which of the kit's parts; without it, all. */
  parts?: readonly KitPart[];
  /** Its lights, flags and kept cameras stand instead of those that are there, or beside them. */
  how: 'replace' | 'merge';
  /** What ids of this window end with. */
  letters?: string;
  /** Ids under which what the kit holds stands already; what has none gets one that is free. */
  ids?: KitIds;
  /** The kit's id and revision, by which it is known where this came from; `offers`: its later changes will be offered. */
  tie?: { kit: string; revision: number; offers: boolean };
}

/** Ids for parts of a kit, free in a setup and in any window, unless they are `known`. */
function idsFor(setup: Setup, { rig, cameras }: Pick<Kit['parts'], 'rig' | 'cameras'>, letters: string, known?: KitIds): KitIds {
  const given = (items: object, of: Collection | undefined, have: Record<string, string> | undefined, stem: (id: string) => string) => {
    const taken: Record<string, unknown> = { ...items, ...Object.fromEntries(Object.values(have ?? {}).map((id) => [id, true])) },
      ids: Record<string, string> = {};
    for (const id of of ? orderOf(of) : []) {
      const own = (ids[id] = have?.[id] ?? freeId(taken, stem(id), letters));
      taken[own] = true;
    }
    return ids;
  };
  return {
    lights: given(setup.lights.items, rig?.lights, known?.lights, (id) => rig!.lights.items[id]!.role),
    flags: given(setup.flags.items, rig?.flags, known?.flags, () => 'flag'),
    cameras: given(setup.cameras.items, cameras?.cameras, known?.cameras, () => 'camera'),
  };
}

/** Lights and flags of a kit under their ids here; a pair stays one. */
function renamed({ lights, flags }: Pick<KitRig, 'lights' | 'flags'>, ids: KitIds) {
  const pairs = new Map<string, string>(),
    put: Record<string, Light> = {};
  for (const id of orderOf(lights)) {
    const light = lights.items[id]!,
      pair = light.twin?.pair;
    // the name of a pair goes by its first light: it is the same whenever the same kit is put under the same ids
    if (pair !== undefined && !pairs.has(pair)) pairs.set(pair, `pair-${ids.lights[id]}`.slice(0, 41));
    put[ids.lights[id]!] = pair === undefined ? light : { ...light, twin: { ...light.twin!, pair: pairs.get(pair)! } };
  }
  const before: Record<string, FlagItem> = {};
  for (const id of orderOf(flags)) {
    const flag = flags.items[id]!;
    before[ids.flags[id]!] = { ...flag, lights: flag.lights.map((l) => ids.lights[l] ?? l) };
  }
  return { lights: put, flags: before };
}

/** The lights of a setup that a hand has locked, and the flags that stand before them. */
function lockedOf({ lights, flags }: Setup): Pick<KitRig, 'lights' | 'flags'> {
  const kept = Object.entries(lights.items).filter(([, light]) => light.locked),
    is = new Set(kept.map(([id]) => id));
  const before = Object.entries(flags.items).flatMap(([id, flag]) => {
    const left = flag.lights.filter((l) => is.has(l));
    return left.length ? [[id, { ...flag, lights: left }] as const] : [];
  });
  return { lights: { items: Object.fromEntries(kept) }, flags: { items: Object.fromEntries(before) } };
}

/**
 * Puts a kit on a setup: places, sizes, stage and cameras in heights of this head, light such that what arrives at it stays, the exposure along with
 * the lights. Beside lights that are there, the kit's are brought to this setup's exposure instead. The floor and lights that are locked stay.
 * @returns the setup then, and what it changes, one patch; what met a limit, in words; under which id its key stands now, and all else of it
 */
export function putKit(
  setup: Setup,
  kit: Kit,
  { parts = partsOf(kit), how, letters = '', ids: known, tie }: PutWish,
): { setup: Setup; patch: Patch; short: string[]; key: string | undefined; ids: KitIds } {
  const head = setupHead(setup),
    scaling = new Scaling(head.headHeight / NO_HEAD.headHeight);
  const { rig, stage, cameras, look, targets, turntable } = kit.parts;
  const has = (part: KitPart) => parts.includes(part);
  const taken = parts.filter((p) => kit.parts[p] !== undefined);
  const ids = idsFor(setup, { ...(has('rig') && rig ? { rig } : {}), ...(has('cameras') && cameras ? { cameras } : {}) }, letters, known);
  let to: Setup = setup,
    key: string | undefined;
  if (rig && has('rig')) {
    // a stop of exposure is a factor of two
    const level = how === 'merge' ? 2 ** (setup.camera.ev - rig.ev) : 1;
    const lights: KitRig['lights'] = {
      items: Object.fromEntries(
        Object.entries(rig.lights.items).map(([id, light]) => {
          const scaled = scaling.light(light);
          const value = clamp(scaled.output.value * level, LIMITS.output);
          return [id, { ...scaled, output: { ...scaled.output, value } } as Light];
        }),
      ),
    };
    const flags = { items: Object.fromEntries(Object.entries(rig.flags.items).map(([id, flag]) => [id, scaling.flag(flag)])) };
    const own = renamed({ lights, flags }, ids),
      there = how === 'replace' ? lockedOf(setup) : setup;
    to = {
      ...to,
      lights: { items: { ...there.lights.items, ...withRanks(there.lights, own.lights) } },
      flags: { items: { ...there.flags.items, ...withRanks(there.flags, own.flags) } },
      ...(how === 'replace' ? { camera: { ...to.camera, ev: rig.ev } } : {}),
    };
    key = ids.lights[kit.shows?.key ?? ''];
  }
  if (stage && has('stage'))
    to = { ...to, stage: { ...scaling.stage(stage.stage), floor: setup.stage.floor }, plate: stage.plate, haze: scaling.haze(stage.haze) };
  if (cameras && has('cameras')) {
    // exposure belongs to the lights
    const brighter = to.camera.ev - cameras.camera.ev;
    const moved = <C extends Setup['camera']>(camera: C): C => ({
      ...scaling.camera(camera, NO_HEAD, head),
      ev: clamp(camera.ev + brighter, LIMITS.ev),
    });
    const others = how === 'replace' ? { items: {} } : setup.cameras;
    const beside: Setup['cameras']['items'] = {};
    for (const id of orderOf(cameras.cameras)) beside[ids.cameras[id]!] = moved(cameras.cameras.items[id]!);
    to = { ...to, camera: moved(cameras.camera), cameras: { items: { ...others.items, ...withRanks(others, beside) } } };
  }
  if (look && has('look')) to = { ...to, look };
  if (targets && has('targets')) to = { ...to, targets };
  if (turntable && has('turntable')) to = { ...to, turntable };
  // what comes instead of something is no longer of the kit that had brought it; what comes beside ends nothing but what there is once
  const others = Object.entries(setup.ties ?? {}).flatMap(([id, other]): [string, Tie][] => {
    const left = other.parts.filter((p) => !taken.includes(p) || (how === 'merge' && (p === 'rig' || p === 'cameras')));
    return left.length ? [[id, { ...other, parts: left }]] : [];
  });
  // the same kit, put on once more, is known as it is put on now
  if (tie && taken.length) others.push([tie.kit, { name: kit.name, revision: tie.revision, parts: taken, how, offers: tie.offers, ids }]);
  const { ties: _, ...untied } = to;
  to = others.length ? { ...untied, ties: Object.fromEntries(others) } : untied;
  return { setup: to, patch: diff(setup, to), short: [...scaling.short], key, ids };
}
