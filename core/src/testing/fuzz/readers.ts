// Every reader with good files to spoil, what it may say no with, and the numbers that it takes in.
import { readdirSync, readFileSync } from 'node:fs';
import { Document, WebIO } from '@gltf-transform/core';
import { plainFilmMath } from '@plinket/kernel';
import { CubeError, readCube } from '../../film/index.ts';
import {
  decodePicture,
  ImportError,
  inspectLightFile,
  LightFileError,
  LightFileShelf,
  mendGlb,
  PictureError,
  PngError,
  RadianceError,
  readCharacter,
  readFilms,
  readPngSetup,
  readShotList,
  readUsda,
  ShotListError,
  UsdError,
  writeExr,
  writePng,
  writeUsda,
} from '../../formats/index.ts';
import { LEVELS_ATTRIBUTE, SETUP_ATTRIBUTE } from '../../formats/films/index.ts';
import { compile } from '../../scene/index.ts';
import { layersIn, parseSetup, SetupError, type Setup } from '../../setup/index.ts';
import { panelLight, setupWith } from '../setups.ts';

/** A reader that is fed spoilt files. */
export interface FuzzReader {
  samples: Uint8Array[];
  /** Its files are words, which are spoilt as words. */
  text?: true;
  /** Reads a file; answers whatever it took in. */
  read(bytes: Uint8Array): unknown;
  /** What it may refuse with. */
  refusals: (abstract new (...args: never[]) => Error)[];
}

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);
const words = (bytes: Uint8Array): string => Buffer.from(bytes).toString('latin1');
const fileOf = (folder: string, name: string): Uint8Array => new Uint8Array(readFileSync(new URL(`${folder}/${name}`, import.meta.url)));
const filesOf = (folder: string, ending: RegExp, most = 20_000): Uint8Array[] =>
  readdirSync(new URL(`${folder}/`, import.meta.url))
    .filter((name) => ending.test(name))
    .map((name) => fileOf(folder, name))
    .filter((bytes) => bytes.length <= most);

/** A triangle that hangs on two joints and moves, with a picture. */
async function moving(): Promise<Document> {
  const document = new Document(),
    buffer = document.createBuffer();
  const accessor = (type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1.7, 0)))
    .setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.of(0, 0, 1, 0, 0, 1)))
    .setAttribute('COLOR_0', accessor('VEC3', Float32Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1)))
    .setAttribute('JOINTS_0', accessor('VEC4', Uint16Array.of(0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0)))
    .setAttribute('WEIGHTS_0', accessor('VEC4', Float32Array.of(0.5, 0.5, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0)))
    .setIndices(accessor('SCALAR', Uint16Array.of(0, 1, 2)));
  const picture = document
    .createTexture('paint')
    .setMimeType('image/png')
    .setImage(new Uint8Array(writePng(2, 2, new Uint8Array(16).fill(200))));
  primitive.setMaterial(document.createMaterial('skin').setBaseColorTexture(picture).setRoughnessFactor(0.5));
  const joints = ['hip', 'head'].map((name) => document.createNode(name).setTranslation([0, 0.5, 0]));
  const skin = document.createSkin().addJoint(joints[0]!).addJoint(joints[1]!);
  joints[0]!.addChild(joints[1]!);
  const node = document.createNode('figure').setMesh(document.createMesh().addPrimitive(primitive)).setSkin(skin);
  document.createScene().addChild(joints[0]!).addChild(node);
  const sampler = document
    .createAnimationSampler()
    .setInput(accessor('SCALAR', Float32Array.of(0, 1)))
    .setOutput(accessor('VEC3', Float32Array.of(0, 0, 0, 0, 1, 0)));
  document
    .createAnimation('nod')
    .addSampler(sampler)
    .addChannel(document.createAnimationChannel().setSampler(sampler).setTargetNode(joints[1]!).setTargetPath('translation'));
  return document;
}

const OBJ = `mtllib a.mtl
o head
v 0 0 0 1 0 0
v 1 0 0
v 0 1.7 0
v 1 1.7 0.2
vt 0 0
vt 1 0
vt 0 1
vn 0 0 1
usemtl skin
f 1/1/1 2/2/1 3/3/1
f -3//1 -1//1 -2//1
`;
const MTL = 'newmtl skin\nKd 0.8 0.5 0.4\nKe 0 0 0\nNs 20\nd 1\nNi 1.4\nPr 0.4\nPm 0\nmap_Kd a.png\n';
const PLY = `ply
format ascii 1.0
element vertex 3
property float x
property float y
property float z
property uchar red
property uchar green
property uchar blue
element face 1
property list uchar int vertex_indices
end_header
0 0 0 255 0 0
1 0 0 0 255 0
0 1.7 0 0 0 255
3 0 1 2
`;
const STL = `solid a
facet normal 0 0 1
outer loop
vertex 0 0 0
vertex 1 0 0
vertex 0 1.7 0
endloop
endfacet
endsolid a
`;

function binaryStl(): Uint8Array {
  const out = new Uint8Array(84 + 50),
    view = new DataView(out.buffer);
  view.setUint32(80, 1, true);
  [0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1.7, 0].forEach((v, i) => view.setFloat32(84 + i * 4, v, true));
  return out;
}
function binaryPly(): Uint8Array {
  const head = bytesOf(PLY.slice(0, PLY.indexOf('end_header') + 11).replace('ascii', 'binary_little_endian'));
  const body = new DataView(new ArrayBuffer(3 * 15 + 13));
  [0, 0, 0, 1, 0, 0, 0, 1.7, 0].forEach((v, i) => body.setFloat32(Math.floor(i / 3) * 15 + (i % 3) * 4, v, true));
  body.setUint8(45, 3);
  [0, 1, 2].forEach((v, i) => body.setInt32(46 + i * 4, v, true));
  return new Uint8Array(Buffer.concat([head, Buffer.from(body.buffer)]));
}
const IES = `IESNA:LM-63-2002
[LUMINAIRE] A lamp
TILT=NONE
1 1000 1 3 5 1 2 0.1 0.1 0
1 1 60
0 45 90
0 90 180 270 360
900 500 10 800 400 10 700 300 10 800 400 10 900 500 10
`;
const CUBE = `TITLE "A look"\nLUT_3D_SIZE 2\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 1 1 1\n${'0.1 0.2 0.3\n'.repeat(8)}`;
const CSV = 'name,first,last,brief\nA1,1001,1024,She comes in\nA2,1001,1040,"He, too"\n';
const EDL = `TITLE: A
FCM: NON-DROP FRAME
001  A1       V     C        01:00:00:00 01:00:02:00 00:00:00:00 00:00:02:00
* FROM CLIP NAME: A1
`;

const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: 24, value });
const OTIO = JSON.stringify({
  OTIO_SCHEMA: 'Timeline.1',
  name: 'A',
  tracks: {
    OTIO_SCHEMA: 'Stack.1',
    children: [
      {
        OTIO_SCHEMA: 'Track.1',
        kind: 'Video',
        children: ['A1', 'A2'].map((name) => ({
          OTIO_SCHEMA: 'Clip.2',
          name,
          source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(1001), duration: time(24) },
        })),
      },
    ],
  },
});

/** A finished picture's file of two by one pixels. */
function films(setup: Setup): Uint8Array {
  const data = new Float32Array(2).fill(0.5);
  const lights = Object.keys(setup.lights.items);
  const names = lights.flatMap((id) => layersIn({}).flatMap(({ name }) => ['R', 'G', 'B'].map((c) => `${id}.${name}.${c}`)));
  return writeExr(
    2,
    1,
    ['R', 'G', 'B', 'covered.A', ...names].map((name) => ({ name, data })),
    { [SETUP_ATTRIBUTE]: JSON.stringify(setup), [LEVELS_ATTRIBUTE]: JSON.stringify(Object.fromEntries(lights.map((id) => [id, 1]))) },
  );
}

/** What a light makes of a file is read as well as what is said of it. */
function lightFile(bytes: Uint8Array): unknown {
  const report = inspectLightFile(bytes),
    shelf = new LightFileShelf();
  shelf.add('a', bytes);
  return [
    report,
    report.kind === 'dome' ? shelf.environment('a', report.layers[0]!) : report.kind === 'gobo' ? shelf.gobo('a') : shelf.profile('a'),
  ];
}

/** A GLB is mended and read again. */
async function mended(bytes: Uint8Array): Promise<unknown> {
  const { glb } = await mendGlb(bytes, { stance: { up: 'z', faces: '-x' }, without: [], crease: 60, winding: true, subdivide: 1 });
  return readCharacter(glb, 'a.glb');
}

/** All readers by name. */
export async function fuzzReaders(): Promise<Record<string, FuzzReader>> {
  const io = new WebIO(),
    glb = await io.writeBinary(await moving());
  const { json, resources } = await io.writeJSON(await moving(), { basename: 'a' });
  const inside = (bytes: Uint8Array): string => `data:application/octet-stream;base64,${Buffer.from(bytes).toString('base64')}`;
  for (const of of [...(json.buffers ?? []), ...(json.images ?? [])]) if (of.uri) of.uri = inside(resources[of.uri]!);
  const setup = setupWith({ key: panelLight(), fill: panelLight({ role: 'fill' }) });
  const character =
    (name: string, beside = new Map<string, Uint8Array>()) =>
    (bytes: Uint8Array) =>
      readCharacter(bytes, name, { beside });
  const elsewhere = '../elsewhere';
  const of = (samples: (Uint8Array | string)[], read: FuzzReader['read'], refusals: FuzzReader['refusals'], text?: true): FuzzReader => ({
    samples: samples.map((s) => (typeof s === 'string' ? bytesOf(s) : s)),
    read,
    refusals,
    ...(text ? { text } : {}),
  });
  const png = writePng(3, 2, new Uint8Array(24).fill(99), setup);
  return {
    glb: of([glb, ...filesOf(elsewhere, /\.glb$/)], character('a.glb'), [ImportError]),
    mend: of([glb, ...filesOf(elsewhere, /\.glb$/)], mended, [ImportError]),
    gltf: of([JSON.stringify(json), ...filesOf(elsewhere, /\.gltf$/)], character('a.gltf'), [ImportError], true),
    obj: of([OBJ], character('a.obj', new Map([['a.mtl', bytesOf(MTL)]])), [ImportError], true),
    mtl: of([MTL], (bytes) => readCharacter(bytesOf(OBJ), 'a.obj', { beside: new Map([['a.mtl', bytes]]) }), [ImportError], true),
    ply: of([PLY, binaryPly(), ...filesOf(elsewhere, /\.ply$/)], character('a.ply'), [ImportError]),
    'ply-text': of([PLY], character('a.ply'), [ImportError], true),
    stl: of([STL, binaryStl()], character('a.stl'), [ImportError]),
    hdr: of([fileOf('samples', 'dome.hdr')], lightFile, [LightFileError]),
    exr: of(filesOf('samples', /\.exr$/), lightFile, [LightFileError]),
    ies: of([IES, ...filesOf(elsewhere, /\.ies$/)], lightFile, [LightFileError], true),
    png: of([png, ...filesOf(elsewhere, /\.png$/)], (b) => decodePicture(b, 'image/png', 'a'), [PictureError]),
    jpeg: of([fileOf('samples', 'photo.jpg')], (b) => decodePicture(b, 'image/jpeg', 'a'), [PictureError]),
    proof: of([png], readPngSetup, [SetupError, PngError]),
    cube: of([CUBE, ...filesOf(elsewhere, /\.cube$/)], (b) => readCube(words(b)), [CubeError], true),
    setup: of([JSON.stringify(setup)], (b) => parseSetup(JSON.parse(new TextDecoder().decode(b))), [SetupError, SyntaxError], true),
    usd: of(
      [
        writeUsda(
          setup,
          compile(setup, () => undefined),
        ).text,
      ],
      (b) => readUsda(words(b), setup),
      [UsdError],
      true,
    ),
    shots: of([CSV], (b) => readShotList(b, 'a.csv', 24), [ShotListError], true),
    edl: of([EDL], (b) => readShotList(b, 'a.edl', 24), [ShotListError], true),
    otio: of([OTIO], (b) => readShotList(b, 'a.otio', 24), [ShotListError], true),
    films: of([films(setup)], (b) => readFilms(b, plainFilmMath()), [RadianceError]),
  };
}
