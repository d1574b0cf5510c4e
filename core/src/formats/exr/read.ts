import { plainStored, type StoredMath } from '@plinket/kernel';
import { checkSize, mended, RadianceError, type RadiancePicture } from '../radiance.ts';
import { BlockReader, type ExrTarget } from './blocks.ts';
import { layersOfHeads, readExrHeads, sizeOfWindow, type ExrHead } from './head.ts';
import { inflateHere, isZip, unpackBlock, type Inflate, type PackedBlock } from './unpack.ts';

/** Names of the layers that hold a picture, of all parts; '' is the one without a name. @throws RadianceError */
export const layersOf = (bytes: Uint8Array): string[] => [...layersOfHeads(readExrHeads(bytes)).keys()];

/**
 * Reads one layer of an OpenEXR picture: lines or tiles, any compression, of files with several parts too.
 * @param layer of `layersOf`; the first when it is not said
 * @throws RadianceError with the reason.
 */
export function readExr(bytes: Uint8Array, layer?: string): RadiancePicture {
  const layers = layersOfHeads(readExrHeads(bytes));
  const chosen = layer ?? (layers.has('') ? '' : layers.keys().next().value);
  const found = chosen === undefined ? undefined : layers.get(chosen);
  if (chosen === undefined || !found)
    throw new RadianceError(
      layers.size ? `There is no layer “${layer}”; there are ${list(layers)}.` : 'No layer has red, green and blue, or grey.',
    );
  const { head, names } = found;
  const [width, height] = sizeOfWindow(head.window);
  checkSize(width, height);
  checkSize(...sizeOfWindow(head.display));
  if (head.channels.some((c) => c.xSampling !== 1 || c.ySampling !== 1))
    throw new RadianceError('Some channels are stored at a lower resolution; save them at full.');
  const notes =
    layers.size > 1
      ? [`Of its layers (${list(layers)}) the one ${chosen === '' ? 'without a name' : `named ${nameOf(chosen)}`} is used.`]
      : [];
  const rgb = new Float32Array(width * height * 3);
  fillHere(
    bytes,
    head,
    names.map((name, first) => ({ name, out: rgb, stride: 3, first })),
  );
  return displayed(rgb, head, notes);
}

/** The picture as it is displayed: of a data window that is another only what lies within, and black around it. */
function displayed(rgb: Float32Array, { window, display }: ExrHead, notes: string[]): RadiancePicture {
  const [width, height] = sizeOfWindow(display),
    [wide, high] = sizeOfWindow(window);
  if (window.x0 === display.x0 && window.y0 === display.y0 && wide === width && high === height) return mended(width, height, rgb, notes);
  const out = new Float32Array(width * height * 3);
  const left = Math.max(window.x0, display.x0),
    right = Math.min(window.x1, display.x1);
  for (let y = Math.max(window.y0, display.y0); y <= Math.min(window.y1, display.y1) && right >= left; y++) {
    const from = ((y - window.y0) * wide + left - window.x0) * 3;
    out.set(rgb.subarray(from, from + (right - left + 1) * 3), ((y - display.y0) * width + left - display.x0) * 3);
  }
  return mended(width, height, out, [
    ...notes,
    `Its pixels are ${wide} × ${high} from ${window.x0 - display.x0}, ${window.y0 - display.y0} on; around them it is black.`,
  ]);
}

const nameOf = (layer: string): string => (layer === '' ? 'without a name' : `“${layer}”`);
const list = (layers: Map<string, unknown>): string => [...layers.keys()].map(nameOf).join(', ');

/** @throws RadianceError with the reason */
function fillHere(bytes: Uint8Array, head: ExrHead, targets: readonly ExrTarget[]): void {
  const reader = new BlockReader(bytes, head, targets, plainStored());
  for (let i = 0; i < reader.blocks; i++) {
    const block = reader.packed(i);
    let unpacked: Uint8Array;
    try {
      unpacked = unpackBlock(head, block);
    } catch (error) {
      throw reader.damaged(block, error);
    }
    reader.place(block, unpacked);
  }
}

/** Blocks that are unpacked at once. */
const AT_ONCE = 8;

/**
 * Reads channels to where they are wanted, where somebody else takes zlib's packing off meanwhile: threads of Node, or the browser's own streams.
 * @param stored puts values where they are wanted; that of the films, where these are wanted
 * @throws RadianceError with the reason
 */
export async function fillChannels(
  bytes: Uint8Array,
  head: ExrHead,
  targets: readonly ExrTarget[],
  stored: StoredMath,
  inflate: Inflate = inflateHere,
): Promise<void> {
  const reader = new BlockReader(bytes, head, targets, stored),
    waiting: { block: PackedBlock; unpacked: Promise<Uint8Array> }[] = [];
  const begin = (i: number): void => {
    const block = reader.packed(i);
    const unpack = async (): Promise<Uint8Array> =>
      !block.plain && isZip(head.compression) ? inflate(block.packed, block.size) : unpackBlock(head, block);
    const unpacked = unpack();
    // heard of when its turn comes
    unpacked.catch(() => undefined);
    waiting.push({ block, unpacked });
  };
  for (let i = 0, next = 0; i < reader.blocks; i++) {
    while (next < reader.blocks && waiting.length < AT_ONCE) begin(next++);
    const { block, unpacked } = waiting.shift()!;
    reader.place(
      block,
      await unpacked.catch((error: unknown) => {
        throw reader.damaged(block, error);
      }),
    );
  }
}
