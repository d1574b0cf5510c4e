import ownUrl from '../../../kernel/build/kernel.wasm?url';
import filmUrl from '../../../kernel/build/film.wasm?url';
import dracoUrl from 'draco3dgltf/draco_decoder_gltf.wasm?url';
import jpegUrl from '@cornerstonejs/codec-libjpeg-turbo-8bit/decodewasm?url';
import sharedUrl from '../../../kernel/build/kernel-shared.wasm?url';
import type { EngineUrls } from './messages.ts';

/** Where the kernel's builds and the decoders are served. */
export function engineUrls(): EngineUrls {
  const at = (url: string) => new URL(url, location.href).href;
  return { shared: at(sharedUrl), own: at(ownUrl), film: at(filmUrl), draco: at(dracoUrl), jpeg: at(jpegUrl) };
}
