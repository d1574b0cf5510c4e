// STL, binary and as text (3D Systems 1988; the binary layout of 80 + 4 + 50 n bytes).
import { smoothNormals, weld } from '../../geometry/index.ts';
import { material } from '../../surface/index.ts';
import type { CharacterAsset, ImportWarning } from '../../scene/index.ts';
import { checkPart, finishCharacter, ImportError } from '../character/index.ts';
import { textOf } from '../text.ts';

const GREY = material({ name: 'grey', base: [0.5, 0.5, 0.5], roughness: 0.6 });

/**
 * Reads a character from an STL, as it lies: the format says nothing of what is up, in the trade of printing it is usually Z. Corners that fall together are joined.
 * @throws ImportError with the reason.
 */
export function readStl(bytes: Uint8Array, fileName: string): CharacterAsset {
  const text = isText(bytes);
  const corners = text ? fromText(textOf(bytes)) : fromBinary(bytes);
  if (!corners.length) throw new ImportError('no-triangles', 'The file has no triangles.');
  const { positions, indices } = weld(
    corners,
    Uint32Array.from({ length: corners.length / 3 }, (_, i) => i),
  );
  checkPart({ name: 'mesh', positions, indices });
  const warnings: ImportWarning[] = [{ code: 'flat-shaded', message: 'STL has no smooth normals; they were made.' }];
  const part = { name: 'mesh', positions, indices, normals: smoothNormals(positions, indices), material: GREY };
  return { ...finishCharacter(fileName.replace(/\.stl$/i, ''), [part], {}, warnings), usualUp: 'z' };
}

/** Binary files may begin with “solid” too: their length tells. */
function isText(bytes: Uint8Array): boolean {
  if (bytes.length >= 84) {
    const count = new DataView(bytes.buffer, bytes.byteOffset).getUint32(80, true);
    if (bytes.length === 84 + count * 50) return false;
  }
  return /^\s*solid/i.test(textOf(bytes.subarray(0, 80)));
}

function fromBinary(bytes: Uint8Array): Float32Array {
  if (bytes.length < 84) throw new ImportError('truncated', 'This is no STL: it is shorter than its header.');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength),
    count = view.getUint32(80, true);
  if (84 + count * 50 > bytes.length)
    throw new ImportError(
      'truncated',
      `The header announces ${count} triangles; the file has room for ${Math.floor((bytes.length - 84) / 50)}.`,
    );
  const out = new Float32Array(count * 9);
  for (let t = 0; t < count; t++) for (let k = 0; k < 9; k++) out[t * 9 + k] = view.getFloat32(84 + t * 50 + 12 + k * 4, true);
  return out;
}

function fromText(text: string): Float32Array {
  const out: number[] = [];
  text.split(/\r\n|\n|\r/).forEach((line, n) => {
    const words = line.trim().split(/\s+/);
    if (words[0]?.toLowerCase() !== 'vertex') return;
    for (let k = 1; k <= 3; k++) {
      const v = Number(words[k]);
      if (words[k] === undefined || !Number.isFinite(v))
        throw new ImportError('broken', `Line ${n + 1}: “${words[k] ?? ''}” is no number.`);
      out.push(v);
    }
  });
  if (out.length % 9) throw new ImportError('truncated', 'The last triangle is not complete.');
  return Float32Array.from(out);
}
