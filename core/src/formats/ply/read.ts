// PLY (Turk 1994, "The PLY Polygon File Format"): text, binary of either byte order; positions, normals, colours, polygons.
import { FILE_LIMITS } from '../../math/index.ts';
import { smoothNormals } from '../../geometry/index.ts';
import { decodeSrgb } from '../../photometry/index.ts';
import { material } from '../../surface/index.ts';
import type { CharacterAsset, ImportWarning, Part } from '../../scene/index.ts';
import { checkPart, finishCharacter, ImportError, counter, type Progress } from '../character/index.ts';
import { textOf } from '../text.ts';

interface Property {
  name: string;
  type: string;
  /** Type of the count, of a list. */
  count?: string;
}
interface Element {
  name: string;
  count: number;
  properties: Property[];
}

const SIZES: Record<string, number> = { char: 1, uchar: 1, short: 2, ushort: 2, int: 4, uint: 4, float: 4, double: 8 };
const NAMES: Record<string, string> = {
  int8: 'char',
  uint8: 'uchar',
  int16: 'short',
  uint16: 'ushort',
  int32: 'int',
  uint32: 'uint',
  float32: 'float',
  float64: 'double',
};

/** Where the values come from: text word by word, or bytes. */
type Next = (type: string) => number;

function header(bytes: Uint8Array): { format: string; elements: Element[]; end: number } {
  const text = textOf(bytes.subarray(0, 65536));
  if (!/^ply\r?\n/.test(text)) throw new ImportError('broken', 'This is no PLY: it does not begin with “ply”.');
  const end = /end_header\r?\n/.exec(text);
  if (!end) throw new ImportError('truncated', 'The header does not end.');
  let format = '';
  const elements: Element[] = [];
  text
    .slice(0, end.index)
    .split(/\r?\n/)
    .forEach((line, n) => {
      const words = line.trim().split(/\s+/);
      const typed = (t: string | undefined): string => {
        const type = NAMES[t ?? ''] ?? t ?? '';
        if (!(type in SIZES)) throw new ImportError('broken', `Line ${n + 1}: the type “${t ?? ''}” is not known.`);
        return type;
      };
      if (words[0] === 'format') format = words[1] ?? '';
      else if (words[0] === 'element') {
        const count = Number(words[2]);
        if (!Number.isInteger(count) || count < 0 || count > FILE_LIMITS.plyEntries)
          throw new ImportError('broken', `Line ${n + 1}: ${words[2] ?? ''} is no count.`);
        elements.push({ name: words[1] ?? '', count, properties: [] });
      } else if (words[0] === 'property') {
        const element = elements.at(-1);
        if (!element) throw new ImportError('broken', `Line ${n + 1}: a property belongs to no element.`);
        element.properties.push(
          words[1] === 'list'
            ? { name: words[4] ?? '', type: typed(words[3]), count: typed(words[2]) }
            : { name: words[2] ?? '', type: typed(words[1]) },
        );
      }
    });
  if (!['ascii', 'binary_little_endian', 'binary_big_endian'].includes(format))
    throw new ImportError('unsupported', `The format “${format}” cannot be read.`);
  return { format, elements, end: end.index + end[0].length };
}

function fromText(text: string): Next {
  const words = text.split(/\s+/).filter((w) => w !== '');
  let at = 0;
  return () => {
    if (at >= words.length) throw new ImportError('truncated', 'The file ends before its last value.');
    const v = Number(words[at++]);
    if (Number.isNaN(v) && words[at - 1]!.toLowerCase() !== 'nan')
      throw new ImportError('broken', `“${words[at - 1]!.slice(0, 20)}” is no number.`);
    return v;
  };
}

function fromBytes(bytes: Uint8Array, start: number, little: boolean): Next {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = start;
  return (type) => {
    const size = SIZES[type]!;
    if (at + size > bytes.length) throw new ImportError('truncated', `The file ends at byte ${bytes.length}, before its last value.`);
    const o = at;
    at += size;
    switch (type) {
      case 'char':
        return view.getInt8(o);
      case 'uchar':
        return view.getUint8(o);
      case 'short':
        return view.getInt16(o, little);
      case 'ushort':
        return view.getUint16(o, little);
      case 'int':
        return view.getInt32(o, little);
      case 'uint':
        return view.getUint32(o, little);
      case 'double':
        return view.getFloat64(o, little);
      default:
        return view.getFloat32(o, little);
    }
  };
}

/** What is no number is none of the colour. */
const shareOf = (v: number): number => (v > 0 ? Math.min(1, v) : 0);

/** Reads a character from a PLY. @throws ImportError with the reason. */
export function readPly(bytes: Uint8Array, fileName: string, progress?: Progress): CharacterAsset {
  const { format, elements, end } = header(bytes);
  const next = format === 'ascii' ? fromText(textOf(bytes.subarray(end))) : fromBytes(bytes, end, format === 'binary_little_endian');
  // asked before memory is taken: every entry needs its bytes, in text a digit and what parts it from the next
  for (const { name, count, properties } of elements) {
    const least = properties.reduce((n, p) => n + (format === 'ascii' ? 2 : SIZES[p.count ?? p.type]!), 0);
    if (count > 0 && least === 0) throw new ImportError('broken', `“${name}” has ${count} entries and no properties.`);
    if (count * least > bytes.length - end + 1)
      throw new ImportError('truncated', `The header announces ${count} entries of “${name}”; the file has no room for them.`);
  }
  let positions = new Float32Array(0),
    normals: Float32Array | undefined,
    colours: Float32Array | undefined;
  const indices: number[] = [];
  const counted = counter(
    progress,
    0.1,
    0.85,
    elements.reduce((n, e) => n + e.count, 0),
  );
  for (const element of elements) {
    const at = (name: string) => element.properties.findIndex((p) => p.name === name);
    const three = (...names: string[]) => names.map(at);
    const place = three('x', 'y', 'z'),
      bend = three('nx', 'ny', 'nz'),
      paint = three('red', 'green', 'blue');
    const has = (list: number[]) => element.name === 'vertex' && list.every((k) => k >= 0);
    if (element.name === 'vertex') {
      if (!has(place)) throw new ImportError('broken', 'The vertices have no x, y and z.');
      positions = new Float32Array(element.count * 3);
      if (has(bend)) normals = new Float32Array(element.count * 3);
      if (has(paint)) colours = new Float32Array(element.count * 3);
    }
    const bytesOfColour = paint[0]! >= 0 && element.properties[paint[0]!]!.type === 'uchar' ? 255 : 1;
    for (let i = 0; i < element.count; i++) {
      counted(1);
      const values: number[] = [];
      let face: number[] | undefined;
      for (const p of element.properties) {
        if (p.count === undefined) {
          values.push(next(p.type));
          continue;
        }
        const n = next(p.count);
        if (!(n >= 0 && n <= FILE_LIMITS.plyList)) throw new ImportError('broken', `${element.name} ${i} has a list of ${n} values.`);
        const list = Array.from({ length: n }, () => next(p.type));
        if (/^vertex_ind(ex|ices)$/.test(p.name)) face = list;
        values.push(0);
      }
      if (element.name === 'vertex')
        for (let k = 0; k < 3; k++) {
          positions[i * 3 + k] = values[place[k]!]!;
          if (normals) normals[i * 3 + k] = values[bend[k]!]!;
          if (colours) colours[i * 3 + k] = decodeSrgb(shareOf(values[paint[k]!]! / bytesOfColour));
        }
      else if (face) for (let k = 1; k + 1 < face.length; k++) indices.push(face[0]!, face[k]!, face[k + 1]!);
    }
  }
  const count = positions.length / 3;
  const wrong = indices.find((v) => v < 0 || v >= count);
  if (wrong !== undefined) throw new ImportError('broken', `A face names vertex ${wrong}; there are ${count}.`);
  if (!indices.length) throw new ImportError('no-triangles', 'The file has no faces: a cloud of points cannot be lit.');
  const index = Uint32Array.from(indices);
  checkPart({ name: 'mesh', positions, indices: index });
  const warnings: ImportWarning[] = normals ? [] : [{ code: 'flat-shaded', message: 'The file has no normals; smooth ones were made.' }];
  const part: Part = {
    name: 'mesh',
    positions,
    normals: normals ?? smoothNormals(positions, index),
    indices: index,
    ...(colours ? { colours } : {}),
    material: material({ name: colours ? 'painted' : 'grey', base: colours ? [1, 1, 1] : [0.5, 0.5, 0.5], roughness: 0.6 }),
  };
  return finishCharacter(fileName.replace(/\.ply$/i, ''), [part], {}, warnings);
}
