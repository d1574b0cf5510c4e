import { EXTMeshoptCompression, KHRDracoMeshCompression } from '@gltf-transform/extensions';
// @ts-expect-error the package ships no types; what it exports is told below
import createDecoderModule from 'draco3dgltf/draco_decoder_gltf_nodejs.js';
import { MeshoptDecoder } from 'meshoptimizer';
import { ImportError, type Progress } from '../character/index.ts';
import { fastJpeg, slowJpeg, type JpegDecoder } from '../jpeg.ts';
import { FILE_LIMITS } from '../../math/index.ts';
import type { GltfJson } from './schema.ts';

/** Makes the decoder from the bytes of its WebAssembly. */
const makeDraco = createDecoderModule as (options: { wasmBinary: Uint8Array }) => Promise<unknown>;

/** What reading needs from outside: decoders of compressed meshes, and who hears how far it has come. */
export interface ReadOptions {
  progress?: Progress;
  /** The bytes of draco3dgltf's draco_decoder_gltf.wasm; without it files compressed by Draco are refused. */
  draco?: () => Promise<Uint8Array>;
  /** The bytes of libjpeg-turbo's libjpegturbowasm_decode.wasm; without it pictures are read by jpeg-js, which takes some fifteen times as long. */
  jpeg?: () => Promise<Uint8Array>;
}

export const COMPRESSION_EXTENSIONS = [EXTMeshoptCompression, KHRDracoMeshCompression];

/**
 * The decoders that a file needs, ready to be given to the reader.
 * @throws ImportError too-large before anything is unfolded, unsupported when a decoder is not at hand.
 */
export async function decodersFor(json: GltfJson, { draco }: ReadOptions): Promise<Record<string, unknown>> {
  const used = new Set([...(json.extensionsRequired ?? []), ...((json['extensionsUsed'] as string[] | undefined) ?? [])]);
  const out: Record<string, unknown> = {};
  const compressed = ['EXT_meshopt_compression', 'KHR_draco_mesh_compression'].some((e) => used.has(e));
  if (!compressed) return out;
  const values = (json.accessors ?? []).reduce((n, a) => n + a.count, 0);
  if (values > FILE_LIMITS.gltfUnfolded)
    throw new ImportError(
      'too-large',
      `The file would unfold into ${Math.round(values / 1e6)} million values; ${FILE_LIMITS.gltfUnfolded / 1e6} million are the most.`,
    );
  if (used.has('EXT_meshopt_compression')) {
    await MeshoptDecoder.ready;
    out['meshopt.decoder'] = MeshoptDecoder;
  }
  if (used.has('KHR_draco_mesh_compression')) {
    if (!draco) throw new ImportError('unsupported', 'The file is compressed by Draco, which cannot be read here. Export it without.');
    out['draco3d.decoder'] = await makeDraco({ wasmBinary: await draco() });
  }
  return out;
}

/** How a file's JPEGs are read; the fast decoder is fetched where there are any. */
export async function jpegsOf(json: GltfJson, { jpeg }: ReadOptions): Promise<JpegDecoder> {
  const any = ((json['images'] ?? []) as { mimeType?: string; uri?: string }[]).some(
    (i) => i.mimeType === 'image/jpeg' || /\.jpe?g$/i.test(i.uri ?? ''),
  );
  if (!any || !jpeg) return slowJpeg;
  try {
    return await fastJpeg(await jpeg());
  } catch {
    // a decoder that does not come makes reading slow, and is no reason to refuse the file
    return slowJpeg;
  }
}
