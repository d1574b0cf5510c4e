import { Logger, WebIO } from '@gltf-transform/core';
import { KHRONOS_EXTENSIONS } from '@gltf-transform/extensions';
import { ImportError } from '../character/index.ts';
import { checkAccessors, checkNodes } from './container.ts';
import { checkGltf } from './schema.ts';
import { textOf } from '../text.ts';
import { COMPRESSION_EXTENSIONS, decodersFor, type ReadOptions } from './decoders.ts';

/** A white pixel as PNG: what stands in for a picture that did not come along. */
const WHITE = 'data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8/5+hHgAHggJ/PchI7wAAAABJRU5ErkJggg==';

const plainName = (uri: string): string => decodeURIComponent(uri).split(/[\\/]/).pop()!;

/**
 * Puts a .gltf and the files that came with it into one GLB; files are found by their names, wherever they lay. Pictures that are
 * missing are named in `absent` and stay white.
 * @throws ImportError that names the buffers that are missing
 */
export async function packGltf(
  bytes: Uint8Array,
  fileName: string,
  beside: Map<string, Uint8Array>,
  decoders: ReadOptions = {},
): Promise<{ glb: Uint8Array; absent: string[] }> {
  let value: unknown;
  try {
    value = JSON.parse(textOf(bytes));
  } catch (error) {
    throw new ImportError('broken', `${fileName} is not JSON: ${error instanceof Error ? error.message : String(error)}`);
  }
  const json = checkGltf(value);
  checkNodes(json);
  checkAccessors(json);
  const files = new Map([...beside].map(([name, data]) => [plainName(name), data]));
  const resources: Record<string, Uint8Array<ArrayBuffer>> = {};
  const outside = (uri: string | undefined): uri is string => uri !== undefined && !uri.startsWith('data:');
  const missing: string[] = [];
  for (const { uri } of json.buffers ?? []) {
    if (!outside(uri)) continue;
    const found = files.get(plainName(uri));
    if (found) resources[uri] = Uint8Array.from(found);
    else missing.push(plainName(uri));
  }
  if (missing.length)
    throw new ImportError('broken', `${fileName} needs ${missing.join(', ')}, which did not come along. Drop all of its files together.`);
  const absent: string[] = [];
  for (const image of json.images ?? []) {
    if (!outside(image.uri)) continue;
    const found = files.get(plainName(image.uri));
    if (found) resources[image.uri] = Uint8Array.from(found);
    else {
      absent.push(plainName(image.uri));
      image.uri = WHITE;
    }
  }
  const io = new WebIO()
    .setLogger(new Logger(Logger.Verbosity.SILENT))
    .registerExtensions([...KHRONOS_EXTENSIONS, ...COMPRESSION_EXTENSIONS])
    .registerDependencies(await decodersFor(json, decoders));
  try {
    const document = await io.readJSON({ json: json as never, resources });
    for (const e of document.getRoot().listExtensionsUsed())
      if (COMPRESSION_EXTENSIONS.some((c) => c.EXTENSION_NAME === e.extensionName)) e.dispose();
    return { glb: await io.writeBinary(document), absent };
  } catch (error) {
    if (error instanceof ImportError) throw error;
    throw new ImportError('broken', `${fileName} cannot be read: ${error instanceof Error ? error.message : String(error)}`);
  }
}
