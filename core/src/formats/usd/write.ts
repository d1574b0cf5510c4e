import type { Vec3 } from '../../math/index.ts';
import type { Scene, SceneGeometry } from '../../scene/index.ts';
import { inOrder, orderOf, readRef, type Light, type ObjectRef, type Setup } from '../../setup/index.ts';
import { hasAlpha, isClear, type Material } from '../../surface/index.ts';
import { usdFrame, usdLight, usdType, withoutCounterpart, type UsdLight } from './light.ts';
import { collectionOf, primOf, ROOT, type UsdCollection } from './links.ts';
import { assetText, listText, matrixText, numberText, primName, primText, quoted, tupleText, type PrimText } from './text.ts';

/** Scene units in one of USD's units of lenses: they are tenths of a unit, ours are millimetres. */
export const LENS_UNITS = 100;

/** A setup as .usda, and what of it has no counterpart there. */
export interface UsdWritten {
  text: string;
  report: string[];
}

const TYPES: Record<keyof UsdLight, string> = {
  intensity: 'float',
  exposure: 'float',
  normalize: 'bool',
  color: 'color3f',
  enableColorTemperature: 'bool',
  colorTemperature: 'float',
  diffuse: 'float',
  specular: 'float',
  width: 'float',
  height: 'float',
  radius: 'float',
  length: 'float',
  angle: 'float',
  'shaping:cone:angle': 'float',
  'shaping:cone:softness': 'float',
  'shaping:ies:file': 'asset',
  'texture:file': 'asset',
  'shadow:enable': 'bool',
  'shadow:color': 'color3f',
};

function valueText(type: string, value: number | boolean | string | Vec3): string {
  if (type === 'asset') return assetText(String(value));
  if (typeof value === 'boolean') return value ? '1' : '0';
  return Array.isArray(value) ? tupleText(value) : numberText(Number(value));
}

const frameProperties = ({ x, y, z, at }: ReturnType<typeof usdFrame>): string[] => [
  `matrix4d xformOp:transform = ${matrixText(x, y, z, at)}`,
  'uniform token[] xformOpOrder = ["xformOp:transform"]',
];

/** A link of light: which prims are in; nothing where all are. */
function linkProperties(name: 'lightLink' | 'shadowLink', { includeRoot, includes, excludes }: UsdCollection): string[] {
  if (includeRoot && excludes.length === 0) return [];
  const rel = (word: string, paths: string[]) =>
    paths.length ? [`rel collection:${name}:${word} = ${listText(paths.map((p) => `<${p}>`))}`] : [];
  return [
    `uniform token collection:${name}:expansionRule = "expandPrims"`,
    `uniform bool collection:${name}:includeRoot = ${includeRoot ? 1 : 0}`,
    ...rel('includes', includes),
    ...rel('excludes', excludes),
  ];
}

function lightPrim(setup: Setup, id: string, light: Light, objects: readonly ObjectRef[]): PrimText {
  const type = usdType(light);
  const own = [`custom string plinket:id = ${quoted(id)}`, `custom string plinket:light = ${quoted(JSON.stringify(light))}`];
  const display = [`displayName = ${quoted(light.name)}`];
  if (type === undefined) return { head: `def Scope "${primName(id)}"`, metadata: display, properties: own };
  const { reach } = light;
  const attributes = Object.entries(usdLight(light)).map(
    ([name, value]) => `${TYPES[name as keyof UsdLight]} inputs:${name} = ${valueText(TYPES[name as keyof UsdLight], value)}`,
  );
  const schemas = ['ShadowAPI', ...(light.kind === 'spot' || light.kind === 'profile' ? ['ShapingAPI'] : [])];
  return {
    head: `def ${type} "${primName(id)}"`,
    metadata: [...display, `prepend apiSchemas = ${listText(schemas.map((s) => `"${s}"`))}`],
    properties: [
      ...attributes,
      ...(light.on ? [] : ['token visibility = "invisible"']),
      ...(light.kind === 'dome' && light.fill.kind === 'picture' ? ['token inputs:texture:format = "latlong"'] : []),
      ...linkProperties('lightLink', collectionOf(reach?.lights ?? {}, objects)),
      ...linkProperties('shadowLink', collectionOf(reach?.casts ?? {}, objects)),
      ...frameProperties(usdFrame(setup, light)),
      ...own,
    ],
  };
}

function cameraPrim({ camera }: Setup, { forward, right, up, origin }: Scene['camera']): PrimText {
  const { focal, sensor, aspect, lens, ev, name, target, roll } = camera;
  return {
    head: `def Camera "Camera"`,
    metadata: [`displayName = ${quoted(name)}`],
    properties: [
      'token projection = "perspective"',
      `float focalLength = ${numberText(focal / LENS_UNITS)}`,
      `float verticalAperture = ${numberText(sensor / LENS_UNITS)}`,
      `float horizontalAperture = ${numberText((sensor * aspect) / LENS_UNITS)}`,
      `float2 clippingRange = (0.01, 1000)`,
      `float focusDistance = ${numberText(lens.focus)}`,
      `float fStop = ${numberText(lens.fNumber)}`,
      ...frameProperties({ x: right, y: up, z: forward.map((v) => -v) as Vec3, at: origin }),
      `custom double plinket:ev = ${numberText(ev)}`,
      `custom double plinket:roll = ${numberText(roll)}`,
      `custom double3 plinket:target = ${tupleText(target)}`,
    ],
  };
}

/** A surface as UsdPreviewSurface (its published specification; from memory). */
function materialPrim(name: string, m: Material): PrimText {
  const path = `${ROOT}/Materials/${name}`;
  const emission = Math.max(...m.emission) > 0 ? m.emission : undefined;
  return {
    head: `def Material "${name}"`,
    metadata: [`displayName = ${quoted(m.name)}`],
    properties: [`token outputs:surface.connect = <${path}/Surface.outputs:surface>`],
    children: [
      {
        head: 'def Shader "Surface"',
        properties: [
          'uniform token info:id = "UsdPreviewSurface"',
          `color3f inputs:diffuseColor = ${tupleText(m.base)}`,
          `float inputs:metallic = ${numberText(m.metallic)}`,
          `float inputs:roughness = ${numberText(m.roughness)}`,
          `float inputs:ior = ${numberText(m.ior)}`,
          `float inputs:clearcoat = ${numberText(m.coat)}`,
          `float inputs:clearcoatRoughness = ${numberText(m.coatRoughness)}`,
          `float inputs:opacity = ${numberText(isClear(m) ? 1 - m.transmission : m.alpha)}`,
          ...(m.alphaMode === 'mask' ? [`float inputs:opacityThreshold = ${numberText(m.alphaCutoff)}`] : []),
          ...(emission ? [`color3f inputs:emissiveColor = ${tupleText(emission)}`] : []),
          'token outputs:surface',
        ],
      },
    ],
  };
}

/** What UsdPreviewSurface has no words for. */
function lost(m: Material): string[] {
  return [
    ...(m.textures ? ['its pictures'] : []),
    ...(m.subsurface > 0 ? ['depth'] : []),
    ...(m.fibres > 0 ? ['fibres'] : []),
    ...(m.sheen.some((v) => v > 0) ? ['sheen'] : []),
    ...(hasAlpha(m) && m.textures?.base ? ['holes'] : []),
  ];
}

/** The triangles of one object as a mesh of its own; points by number, as they first come. */
function meshPrim(geometry: SceneGeometry, object: number, name: string, materialName: (m: number) => string): PrimText {
  const { mesh, normals, uvs, triangleObject, triangleMaterial } = geometry;
  const index = new Map<number, number>(),
    order: number[] = [],
    corners: number[] = [];
  let surface = 0;
  for (let t = 0; t < triangleObject.length; t++) {
    if (triangleObject[t] !== object) continue;
    surface = triangleMaterial[t]!;
    for (let k = t * 3; k < t * 3 + 3; k++) {
      const v = mesh.indices[k]!;
      let i = index.get(v);
      if (i === undefined) {
        index.set(v, (i = order.length));
        order.push(v);
      }
      corners.push(i);
    }
  }
  const each = (from: ArrayLike<number>, size: number) =>
    listText(order.map((v) => tupleText(Array.from({ length: size }, (_, k) => Number(from[v * size + k]!.toPrecision(7))))));
  return {
    head: `def Mesh "${name}"`,
    metadata: ['prepend apiSchemas = ["MaterialBindingAPI"]'],
    properties: [
      'uniform token subdivisionScheme = "none"',
      `int[] faceVertexCounts = ${listText(Array.from({ length: corners.length / 3 }, () => '3'))}`,
      `int[] faceVertexIndices = ${listText(corners.map(String))}`,
      `point3f[] points = ${each(mesh.positions, 3)}`,
      `normal3f[] normals = ${each(normals, 3)} (interpolation = "vertex")`,
      ...(uvs.length && geometry.materials[surface]?.textures
        ? [`texCoord2f[] primvars:st = ${each(uvs, 2)} (interpolation = "vertex")`]
        : []),
      `uniform bool doubleSided = ${geometry.materials[surface]?.twoSided ? 1 : 0}`,
      `rel material:binding = <${ROOT}/Materials/${materialName(surface)}>`,
      `custom string plinket:object = ${quoted(geometry.objects[object]!)}`,
    ],
  };
}

/**
 * A setup as .usda: metres, Y up, one layer. Camera, lights with their links, everything that stands there as it is posed, and its surfaces.
 * What USD has no words for stands in attributes that begin with `plinket:`, and is told.
 * @param scene compiled from the setup
 */
export function writeUsda(setup: Setup, scene: Scene): UsdWritten {
  const { geometry } = scene;
  const report: string[] = [];
  const lights = orderOf(setup.lights).map((id) => {
    const light = setup.lights.items[id]!;
    const missing = withoutCounterpart(light);
    if (missing.length) report.push(`${light.name}: ${missing.join('; ')}.`);
    return lightPrim(setup, id, light, geometry.objects);
  });
  const materialName = (m: number) => `m${m}`;
  const groups = new Map<string, PrimText[]>();
  geometry.objects.forEach((ref, object) => {
    const path = primOf(ref);
    const above = path.slice(0, path.lastIndexOf('/'));
    const prim = meshPrim(geometry, object, path.slice(above.length + 1), materialName);
    groups.set(above, [...(groups.get(above) ?? []), prim]);
  });
  const surfaces = new Set(geometry.materials.flatMap(lost));
  if (surfaces.size) report.push(`Surfaces: ${[...surfaces].join(', ')}.`);
  if (setup.haze.density > 0) report.push('Haze.');
  if (setup.plate.kind !== 'none') report.push('The plate behind everything.');
  if (inOrder(setup.flags).some((f) => f.on)) report.push('Flags in the lights’ way.');
  if (setup.catcher && Object.keys(setup.catcher.objects).length) report.push('What catches shadows.');
  report.push('The look: what is in the file is light, not a picture.');
  const xform = (name: string, children: PrimText[], display?: string): PrimText => ({
    head: `def Xform "${name}"`,
    ...(display === undefined ? {} : { metadata: [`displayName = ${quoted(display)}`] }),
    properties: [],
    children,
  });
  const subjects = [...new Set(geometry.objects.flatMap((o) => (readRef(o)?.of === 'subject' ? [o.split('/')[1]!] : [])))];
  const root = xform('Plinket', [
    cameraPrim(setup, scene.camera),
    { head: 'def Scope "Lights"', properties: [], children: lights },
    xform('Stage', groups.get(`${ROOT}/Stage`) ?? []),
    xform('Props', groups.get(`${ROOT}/Props`) ?? []),
    xform(
      'Subjects',
      subjects.map((id) => xform(primName(id), groups.get(primOf(`subjects/${id}`)) ?? [], setup.subjects.items[id]?.name)),
    ),
    { head: 'def Scope "Materials"', properties: [], children: geometry.materials.map((m, i) => materialPrim(materialName(i), m)) },
  ]);
  const head = [
    '#usda 1.0',
    '(',
    `    doc = ${quoted(setup.name)}`,
    '    defaultPrim = "Plinket"',
    '    metersPerUnit = 1',
    '    upAxis = "Y"',
    ')',
    '',
  ];
  return { text: `${[...head, ...primText(root)].join('\n')}\n`, report };
}
