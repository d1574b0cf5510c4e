import { dot, length, rolled, scale, sub, cross, normalize, type Vec3 } from '../../math/index.ts';
import {
  diff,
  freeId,
  idSchema,
  LIMITS,
  lightSchema,
  withRanks,
  type Camera,
  type Light,
  type Patch,
  type Setup,
} from '../../setup/index.ts';
import { ruleOfPrim, rulesOf, type UsdCollection } from './links.ts';
import { IDENTITY, numbersOf, times, transformOf, worldFrame, type Matrix } from './matrix.ts';
import { parseUsda, UsdError, type UsdAsset, type UsdLayer, type UsdPath, type UsdPrim, type UsdValue } from './parse.ts';
import { fallbacks, inMetres, lightOf, takeLight, type ReadLight } from './read-light.ts';
import { LENS_UNITS } from './write.ts';

/** What comes of a .usda: a change of the setup, and what was taken, changed on the way, and left, in words. */
export interface UsdRead {
  patch: Patch;
  lights: number;
  camera: boolean;
  changed: string[];
  left: string[];
}

/** A prim with where it stands. */
interface Stood {
  prim: UsdPrim;
  matrix: Matrix;
  visible: boolean;
}

const FLOATS = [
  'intensity',
  'exposure',
  'colorTemperature',
  'diffuse',
  'specular',
  'width',
  'height',
  'radius',
  'length',
  'angle',
] as const;
const SHAPED = ['shaping:cone:angle', 'shaping:cone:softness'] as const;
const BOOLS = ['normalize', 'enableColorTemperature', 'shadow:enable'] as const;
const COLOURS = ['color', 'shadow:color'] as const;

const isAsset = (v: UsdValue): v is UsdAsset => typeof v === 'object' && v !== null && 'asset' in v;
const isPath = (v: UsdValue): v is UsdPath => typeof v === 'object' && v !== null && 'path' in v;

/** Says no to files that are not beside this one, and tells of those that are: one file is read at a time. */
function heedFiles(values: UsdValue | undefined, where: string, left: string[]): void {
  for (const v of [values].flat() as UsdValue[]) {
    if (v === undefined || v === null || !isAsset(v)) continue;
    if (/^([a-z]+:|\/|\\|~)|(^|[/\\])\.\.([/\\]|$)/i.test(v.asset))
      throw new UsdError(`${where} refers to “${v.asset}”, which lies outside of its folder.`);
    left.push(`${where}: what it refers to in “${v.asset}” is in another file`);
  }
}

/** The prims of a layer with what they refer to within it in place. @throws UsdError where they go in circles */
function composed(layer: UsdLayer, left: string[]): UsdPrim[] {
  const byPath = new Map<string, UsdPrim>();
  const note = (prim: UsdPrim) => {
    byPath.set(prim.path, prim);
    prim.children.forEach(note);
  };
  layer.prims.forEach(note);
  const inside = (prim: UsdPrim, within: readonly string[]): UsdPrim => {
    const arcs = ['references', 'payload', 'inherits', 'specializes'].flatMap((k) => [prim.metadata[k]].flat() as UsdValue[]);
    heedFiles(arcs, prim.path, left);
    let made = prim;
    for (const arc of arcs) {
      if (arc === undefined || arc === null || !isPath(arc)) continue;
      const { path } = arc;
      if (within.includes(path) || path === prim.path || prim.path.startsWith(`${path}/`))
        throw new UsdError(`${prim.path} refers to ${path}, which comes back to it.`);
      const target = byPath.get(path);
      if (!target) throw new UsdError(`${prim.path} refers to ${path}, which is not there.`);
      const from = inside(target, [...within, path]);
      const own = new Set(made.children.map((c) => c.name));
      const moved = (p: UsdPrim): UsdPrim => ({ ...p, path: made.path + p.path.slice(from.path.length), children: p.children.map(moved) });
      made = {
        ...made,
        type: made.type || from.type,
        properties: { ...from.properties, ...made.properties },
        children: [...made.children, ...from.children.filter((c) => !own.has(c.name)).map(moved)],
      };
    }
    if (prim.metadata['variantSets'] === true) left.push(`${prim.path}: its variants`);
    return { ...made, children: made.children.map((c) => inside(c, within)) };
  };
  return layer.prims.filter((p) => p.specifier === 'def').map((p) => inside(p, []));
}

/** Every defined prim with where it stands. */
function* standing(prims: readonly UsdPrim[], above: Matrix = IDENTITY, visible = true): Generator<Stood> {
  for (const prim of prims) {
    if (prim.specifier !== 'def') continue;
    const { matrix: own, alone } = transformOf(prim);
    const matrix = alone ? own : times(own, above),
      seen = visible && prim.properties['visibility']?.value !== 'invisible';
    yield { prim, matrix, visible: seen };
    yield* standing(prim.children, matrix, seen);
  }
}

/** What a light prim says; attributes of older files have no `inputs:`. @throws UsdError for values of a wrong type */
function attributesOf({ prim, matrix, visible }: Stood, metres: number, zUp: boolean, told: (words: string) => void): ReadLight {
  const read: ReadLight = { visible, frame: worldFrame(matrix, metres, zUp, prim.path) };
  const property = (name: string) => prim.properties[`inputs:${name}`] ?? prim.properties[name];
  const what = (name: string) => `${prim.path}.inputs:${name}`;
  for (const name of [...FLOATS, ...SHAPED, ...BOOLS, ...COLOURS]) {
    const found = property(name);
    if (found?.value === undefined || found.value === null) continue;
    // a light that moves is taken as it is at the first of its times
    const value =
      typeof found.value === 'object' && !Array.isArray(found.value) && !isAsset(found.value) && !isPath(found.value)
        ? Object.values(found.value)[0]
        : found.value;
    if ((BOOLS as readonly string[]).includes(name))
      Object.assign(read, { [name]: value === true || numbersOf(value === false ? 0 : value, 1, what(name))[0] === 1 });
    else if ((COLOURS as readonly string[]).includes(name)) Object.assign(read, { [name]: numbersOf(value, 3, what(name)) });
    else Object.assign(read, { [name]: numbersOf(value, 1, what(name))[0] });
  }
  for (const [name, words] of [
    ['texture:file', 'its picture'],
    ['shaping:ies:file', 'its profile'],
  ] as const) {
    const file = property(name)?.value;
    if (file !== undefined && file !== null && isAsset(file) && file.asset !== '') told(`${words} “${file.asset}” is in another file`);
  }
  return read;
}

/** A collection of links; nothing where the prim has none. */
function collectionAt(prim: UsdPrim, name: 'lightLink' | 'shadowLink'): UsdCollection | undefined {
  const at = (word: string) => prim.properties[`collection:${name}:${word}`]?.value;
  const paths = (word: string): string[] => {
    const value = at(word);
    return ([value ?? []].flat() as UsdValue[]).flatMap((v) => {
      if (v === null || !isPath(v)) throw new UsdError(`${prim.path}.collection:${name}:${word} must hold paths.`);
      return [v.path];
    });
  };
  if (['includeRoot', 'includes', 'excludes'].every((word) => at(word) === undefined)) return undefined;
  const root = at('includeRoot');
  return { includeRoot: root === undefined || root === true || root === 1, includes: paths('includes'), excludes: paths('excludes') };
}

/** The light that a file of ours remembers, if it does and it is one. */
function remembered(prim: UsdPrim): Light | undefined {
  const text = prim.properties['plinket:light']?.value;
  if (typeof text !== 'string') return undefined;
  try {
    return lightSchema.safeParse(JSON.parse(text)).data;
  } catch {
    return undefined;
  }
}

const LIGHT_TYPES = /^(Rect|Disk|Sphere|Cylinder|Distant|Dome)Light(_1)?$/;

/**
 * Lights, camera and links of a .usda, as a change of a setup: lights that have the id of one take its place, others come after them.
 * @throws UsdError that names the line, the prim, or the file that it refers to
 */
export function readUsda(text: string, setup: Setup): UsdRead {
  const layer = parseUsda(text);
  const changed: string[] = [],
    left: string[] = [];
  heedFiles(layer.metadata['subLayers'], 'The file', left);
  const metres = layer.metadata['metersPerUnit'] === undefined ? 0.01 : numbersOf(layer.metadata['metersPerUnit'], 1, 'metersPerUnit')[0]!;
  if (!(metres > 0)) throw new UsdError('metersPerUnit must be more than nothing.');
  const zUp = layer.metadata['upAxis'] === 'Z';
  const found: [string, Light][] = [];
  let camera: Patch | undefined;
  for (const stood of standing(composed(layer, left))) {
    const { prim } = stood;
    const ours = remembered(prim);
    const tell = (list: string[]) => (words: string) => void list.push(`${prim.path}: ${words}`);
    if (LIGHT_TYPES.test(prim.type)) {
      const said = attributesOf(stood, metres, zUp, ours ? () => undefined : tell(left));
      const read = inMetres(ours ? said : { ...fallbacks(prim.type), ...said });
      const start = ours ?? lightOf(prim.type, read);
      if (start) found.push([idOf(prim), named(prim, linked(prim, takeLight(setup, start, read, tell(changed)), tell(left)), ours)]);
    } else if (ours) found.push([idOf(prim), ours]);
    else if (/Light/.test(prim.type)) left.push(`${prim.path}: a ${prim.type}`);
    else if (prim.type === 'Camera' && !camera) camera = cameraOf(stood, setup.camera, metres, zUp, tell(left));
  }
  const patch: Patch = {};
  const items: Record<string, Light> = {};
  const known: Patch = {};
  for (const [wished, light] of found) {
    const own = setup.lights.items[wished];
    if (own && !Object.hasOwn(known, wished)) known[wished] = diff(own, { ...light, rank: own.rank });
    else {
      const taken = { ...setup.lights.items, ...items };
      items[wished in taken ? freeId(taken, wished) : wished] = light;
    }
  }
  const touched = Object.fromEntries(Object.entries(known).filter(([, p]) => Object.keys(p as Patch).length > 0));
  if (Object.keys(touched).length || Object.keys(items).length)
    patch['lights'] = { items: { ...touched, ...(withRanks(setup.lights, items) as unknown as Patch) } };
  if (camera && Object.keys(camera).length) patch['camera'] = camera;
  return { patch, lights: found.length, camera: camera !== undefined, changed, left };
}

/** The id that a prim asks for. */
function idOf(prim: UsdPrim): string {
  const said = prim.properties['plinket:id']?.value;
  const wished =
    typeof said === 'string'
      ? said
      : prim.name
          .toLowerCase()
          .replace(/[^a-z0-9-]+/g, '-')
          .replace(/^-+|-+$/g, '');
  return idSchema.safeParse(wished).success ? wished : 'light';
}

function named(prim: UsdPrim, light: Light, ours: Light | undefined): Light {
  if (ours) return light;
  const said = prim.metadata['displayName'];
  return { ...light, name: (typeof said === 'string' && said !== '' ? said : prim.name).slice(0, 60) };
}

/** A light with the links of a file; those that its own reach stands for are left as they are. */
function linked(prim: UsdPrim, light: Light, told: (words: string) => void): Light {
  const reach = { ...light.reach, lights: light.reach?.lights ?? {}, casts: light.reach?.casts ?? {} };
  let differ = false;
  for (const [relation, name] of [
    ['lights', 'lightLink'],
    ['casts', 'shadowLink'],
  ] as const) {
    const { rules, left } = rulesOf(collectionAt(prim, name) ?? { includeRoot: true, includes: [], excludes: [] }, ruleOfPrim);
    for (const path of left) told(`${name} of ${path}: nothing here is called so`);
    const own = Object.entries(reach[relation]);
    // rules for everybody's parts are said of each in a file
    const general = own.some(([r]) => r.startsWith('subjects/*/'));
    if (general || JSON.stringify(Object.entries(rules).sort()) === JSON.stringify(own.sort())) continue;
    reach[relation] = rules;
    differ = true;
  }
  return differ ? { ...light, reach } : light;
}

function cameraOf({ prim, matrix }: Stood, now: Camera, metres: number, zUp: boolean, told: (words: string) => void): Patch | undefined {
  const value = (name: string) => prim.properties[name]?.value;
  const number = (name: string) =>
    value(name) === undefined || value(name) === null ? undefined : numbersOf(value(name), 1, `${prim.path}.${name}`)[0]!;
  if (value('projection') === 'orthographic') {
    told('an orthographic camera');
    return undefined;
  }
  const { x, z, at } = worldFrame(matrix, metres, zUp, prim.path);
  const forward = scale(z, -1);
  const round = (v: number) => Number(v.toFixed(5));
  const within = (v: number, [least, most]: readonly [number, number]) => Number(Math.max(least, Math.min(most, v)).toPrecision(7));
  const said = value('plinket:target');
  const target = said === undefined ? undefined : (numbersOf(said, 3, `${prim.path}.plinket:target`) as Vec3);
  const aimed = target && length(sub(normalize(sub(target, at), forward), forward)) < 1e-5;
  const far = length(sub(now.target, now.position));
  const level = normalize(cross(forward, [0, 1, 0]), [1, 0, 0]),
    { x: side, y: up } = rolled(level, cross(level, forward), 0);
  const roll = -Math.atan2(dot(x, up), dot(x, side)) * (180 / Math.PI);
  const lens = LENS_UNITS * metres;
  const focal = number('focalLength'),
    high = number('verticalAperture'),
    wide = number('horizontalAperture'),
    stop = number('fStop'),
    focus = number('focusDistance'),
    ev = number('plinket:ev');
  const made: Camera = {
    ...now,
    position: at.map(round) as Vec3,
    target: aimed ? (target.map(round) as Vec3) : (at.map((v, i) => round(v + forward[i]! * far)) as Vec3),
    roll: Math.abs(roll) < 1e-4 ? 0 : round(roll),
    ...(focal === undefined ? {} : { focal: within(focal * lens, LIMITS.focal) }),
    ...(high === undefined ? {} : { sensor: within(high * lens, LIMITS.sensor) }),
    ...(high === undefined || wide === undefined || !(high > 0) ? {} : { aspect: within(wide / high, LIMITS.aspect) }),
    ...(ev === undefined ? {} : { ev: within(ev, LIMITS.ev) }),
    lens: {
      fNumber: stop === undefined ? now.lens.fNumber : within(stop, LIMITS.fNumber),
      focus: focus === undefined ? now.lens.focus : within(focus * metres, LIMITS.focus),
    },
  };
  return nearDiff(now, made);
}

/** What differs by more than the digits of a file. */
function nearDiff(now: Camera, made: Camera): Patch {
  const near = (a: number, b: number) => Math.abs(a - b) <= 2e-5 * Math.max(1, Math.abs(a));
  const kept = Object.entries(made).filter(([key, v]) => {
    const was = now[key as keyof Camera];
    if (typeof v === 'number') return !near(was as number, v);
    if (Array.isArray(v)) return v.some((c, i) => !near((was as number[])[i]!, c as number));
    return JSON.stringify(v) !== JSON.stringify(was);
  });
  return Object.fromEntries(kept) as Patch;
}
