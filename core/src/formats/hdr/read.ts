// Radiance pictures (.hdr): Ward 1991, "Real Pixels" (Graphics Gems II) and the Radiance reference manual's picture format.
import { checkSize, mended, RadianceError, type RadiancePicture } from '../radiance.ts';

/**
 * Reads a Radiance picture, plain or run-length encoded, any of its eight orientations that keep rows level.
 * @throws RadianceError with the reason.
 */
export function readHdr(bytes: Uint8Array): RadiancePicture {
  let at = 0;
  const line = (): string => {
    const from = at;
    while (at < bytes.length && bytes[at] !== 10) at++;
    if (at >= bytes.length) throw new RadianceError('The file ends within its header.');
    return String.fromCharCode(...bytes.subarray(from, Math.min(at++, from + 400))).replace(/\r$/, '');
  };
  if (!(bytes[0] === 0x23 && bytes[1] === 0x3f)) throw new RadianceError('This is no Radiance picture: it does not begin with “#?”.');
  let exposure = 1;
  for (let text = line(); text !== ''; text = line()) {
    const format = /^FORMAT=(.*)$/.exec(text);
    if (format && format[1]!.trim() !== '32-bit_rle_rgbe') throw new RadianceError(`FORMAT is ${format[1]!}; 32-bit_rle_rgbe can be read.`);
    const exposed = /^EXPOSURE=\s*([\d.eE+-]+)/.exec(text);
    if (exposed && Number(exposed[1]) > 0) exposure *= Number(exposed[1]);
  }
  const shape = line();
  const size = /^([+-])Y (\d+) ([+-])X (\d+)$/.exec(shape);
  if (!size) throw new RadianceError(`“${shape.slice(0, 40)}” is no size that can be read; “-Y height +X width” is.`);
  const height = Number(size[2]),
    width = Number(size[4]);
  checkSize(width, height);
  // asked before memory is taken: a row has four bytes at least, however well it is packed
  if (bytes.length - at < height * 4)
    throw new RadianceError(`The header announces ${height} rows; ${bytes.length - at} bytes follow it, and a row has four at least.`);
  const rgb = new Float32Array(width * height * 3),
    row = new Uint8Array(width * 4);
  for (let j = 0; j < height; j++) {
    at = readRow(bytes, at, row, width, j);
    const y = size[1] === '-' ? j : height - 1 - j;
    for (let i = 0; i < width; i++) {
      const x = size[3] === '+' ? i : width - 1 - i,
        e = row[i * 4 + 3]!;
      // the middle of each step: (m + ½) · 2^(e − 136)
      const k = e === 0 ? 0 : 2 ** (e - 136) / exposure;
      for (let c = 0; c < 3; c++) rgb[(y * width + x) * 3 + c] = e === 0 ? 0 : (row[i * 4 + c]! + 0.5) * k;
    }
  }
  return mended(width, height, rgb);
}

/** Reads one row of r g b e; answers where the next begins. */
function readRow(bytes: Uint8Array, at: number, row: Uint8Array, width: number, number: number): number {
  const short = () => new RadianceError(`The file ends in row ${number + 1}.`);
  if (at + 4 > bytes.length) throw short();
  const encoded = width >= 8 && width < 32768 && bytes[at] === 2 && bytes[at + 1] === 2 && bytes[at + 2]! < 128;
  if (!encoded) return readOldRow(bytes, at, row, width, short);
  if (((bytes[at + 2]! << 8) | bytes[at + 3]!) !== width) throw new RadianceError(`Row ${number + 1} has another width than the header.`);
  at += 4;
  for (let c = 0; c < 4; c++)
    for (let i = 0; i < width;) {
      if (at + 1 >= bytes.length) throw short();
      const count = bytes[at++]!;
      const run = count > 128,
        n = run ? count - 128 : count;
      if (n === 0 || i + n > width) throw new RadianceError(`A run in row ${number + 1} is longer than the row.`);
      if (run) {
        const v = bytes[at++]!;
        for (let k = 0; k < n; k++) row[i++ * 4 + c] = v;
      } else {
        if (at + n > bytes.length) throw short();
        for (let k = 0; k < n; k++) row[i++ * 4 + c] = bytes[at++]!;
      }
    }
  return at;
}

/** Plain pixels, in which 1 1 1 n repeats the one before. */
function readOldRow(bytes: Uint8Array, at: number, row: Uint8Array, width: number, short: () => RadianceError): number {
  for (let i = 0, shift = 0; i < width;) {
    if (at + 4 > bytes.length) throw short();
    const repeats = bytes[at] === 1 && bytes[at + 1] === 1 && bytes[at + 2] === 1 && i > 0;
    if (repeats) {
      const n = Math.min(width - i, bytes[at + 3]! << shift);
      for (let k = 0; k < n; k++, i++) row.copyWithin(i * 4, i * 4 - 4, i * 4);
      shift += 8;
    } else {
      row.set(bytes.subarray(at, at + 4), i++ * 4);
      shift = 0;
    }
    at += 4;
  }
  return at;
}
