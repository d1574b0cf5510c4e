// How values are written in .usda.
import type { Vec3 } from '../../math/index.ts';

/** A number that reads back as near as floats of the file are. */
export const numberText = (v: number): string => {
  const short = Number(v.toPrecision(9));
  return Object.is(short, -0) ? '0' : String(short);
};

export const tupleText = (v: readonly number[]): string => `(${v.map(numberText).join(', ')})`;
export const listText = (v: readonly string[]): string => `[${v.join(', ')}]`;

/** A text in quotes. */
export const quoted = (text: string): string =>
  `"${text.replace(/[\\"]/g, '\\$&').replace(/\n/g, '\\n').replace(/\r/g, '\\r').replace(/\t/g, '\\t')}"`;

/** A file's name between its marks, which it must not have itself. */
export const assetText = (name: string): string => `@${name.replace(/@/g, '_')}@`;

/** A name as prims may have it: letters, digits and underscores; all else as the code of its character. */
export const primName = (name: string): string =>
  name.replace(/[^A-Za-z0-9_]/gu, (c) => `_${c.codePointAt(0)!.toString(16).padStart(2, '0')}_`).replace(/^(?=\d|$)/, '_');

/** The name that such a name stands for. */
export const nameOfPrim = (name: string): string =>
  name
    .replace(/^_(?=\d|$)/, '')
    .replace(/_([0-9a-f]{2,6})_/g, (_, code: string) => String.fromCodePoint(Math.min(0x10ffff, parseInt(code, 16))));

/** A frame as a matrix: its axes in rows, its place in the last one (USD multiplies points from the left). */
export const matrixText = (x: Vec3, y: Vec3, z: Vec3, at: Vec3): string =>
  `( ${[
    [...x, 0],
    [...y, 0],
    [...z, 0],
    [...at, 1],
  ]
    .map((row) => tupleText(row))
    .join(', ')} )`;

/** Lines of a prim. */
export interface PrimText {
  /** `def RectLight "key"`. */
  head: string;
  metadata?: string[];
  properties: string[];
  children?: PrimText[];
}

/** A prim and what is below it, indented. */
export function primText({ head, metadata = [], properties, children = [] }: PrimText, indent = ''): string[] {
  const inner = `${indent}    `;
  return [
    `${indent}${head}${metadata.length ? ' (' : ''}`,
    ...(metadata.length ? [...metadata.map((m) => inner + m), `${indent})`] : []),
    `${indent}{`,
    ...properties.map((p) => inner + p),
    ...children.flatMap((c) => ['', ...primText(c, inner)]),
    `${indent}}`,
  ];
}
