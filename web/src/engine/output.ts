// Pictures as files, of the films that are there.
import { orderOf, readingText, writeCutPng, writePng, type KeptReading, type Picture, type Setup } from '@plinket/core';
import type { FromEngine, Thumb, ToEngine } from './messages.ts';
import type { Painter } from './painter.ts';

/** What a question is answered with, and what goes along with it. */
export type Answer = [message: FromEngine, transfer?: Transferable[]];

const wholePng = ({ width, height, rgba }: Picture, setup: Setup, reading?: KeptReading): Uint8Array =>
  writePng(width, height, new Uint8Array(rgba), setup, readingText(reading));

/** The picture as a PNG, as it is seen or cut out. */
export function exportedPng({ maker, shown }: Painter, { request, setup, cut, reading }: Extract<ToEngine, { type: 'export' }>): Answer {
  const png = cut
    ? writeCutPng(maker.cutOut(shown.set, { setup, ...cut }), cut.premultiplied, setup)
    : wholePng(maker.make(shown.set, { setup }), setup, reading);
  const buffer = png.buffer.slice(png.byteOffset, png.byteOffset + png.byteLength) as ArrayBuffer;
  return [{ type: 'exported', request, png: buffer }, [buffer]];
}

/** Every share alone, and all together as they are seen. */
export function contactPictures({ maker, shown }: Painter, { request, setup }: Extract<ToEngine, { type: 'contact' }>): Answer {
  const developed = (id: string, solo: string[], bare: boolean): Thumb => {
    const { width, height, rgba } = maker.make(shown.set, { setup, solo, bare });
    return { id, width, height, rgba: new Uint8Array(rgba).buffer as ArrayBuffer };
  };
  const pictures = [...orderOf(setup.lights).map((id) => developed(id, [id], true)), developed('', [], false)];
  return [{ type: 'contacts', request, pictures }, pictures.map((p) => p.rgba)];
}
