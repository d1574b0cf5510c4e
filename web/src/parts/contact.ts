// The contact sheet: every share alone and all together, in one picture.
import { orderOf, formatStops, lightColour, outputIn, type Setup } from '@plinket/core';
import type { Thumb } from '../engine/messages.ts';
import { cssColour } from './colour.ts';
import { colourOf, letterOf } from './identity.ts';

export interface Cell {
  /** The light's id; '' is all together. */
  id: string;
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Height of the words below a picture, and room around it, pixels. */
export const CAPTION = 46;
export const GAP = 18;

/** Where the pictures of a contact sheet lie: as square a sheet as they allow, all together last. */
export function contactLayout(ids: string[], width: number, height: number): { cells: Cell[]; width: number; height: number } {
  const all = [...ids, ''];
  let columns = 1;
  for (let c = 1; c <= all.length; c++) {
    const shape = (n: number) => Math.abs(Math.log((n * (width + GAP)) / (Math.ceil(all.length / n) * (height + CAPTION + GAP)) / 1.5));
    if (shape(c) < shape(columns)) columns = c;
  }
  const rows = Math.ceil(all.length / columns);
  return {
    width: GAP + columns * (width + GAP),
    height: GAP + rows * (height + CAPTION + GAP),
    cells: all.map((id, i) => ({
      id,
      x: GAP + (i % columns) * (width + GAP),
      y: GAP + Math.floor(i / columns) * (height + CAPTION + GAP),
      width,
      height,
    })),
  };
}

/** Two lines about a light. */
export function captionOf(setup: Setup, id: string): [string, string] {
  const light = setup.lights.items[id];
  if (!light) return ['All together', setup.name];
  const value = Number(outputIn(light, light.output.unit).toPrecision(3));
  const unit = light.output.unit === 'relative' ? '×' : light.output.unit;
  return [light.name, `${formatStops(light.stops)} st · ${Math.round(light.kelvin)} K · ${value} ${unit}${light.on ? '' : ' · off'}`];
}

/** Widest picture of one share on the sheet, pixels. */
const WIDEST = 480;

/** Draws the sheet and answers it as PNG. @throws Error when the browser cannot make one */
export async function contactSheet(setup: Setup, pictures: Thumb[]): Promise<Blob> {
  await document.fonts.ready;
  const first = pictures[0]!;
  const k = Math.min(1, WIDEST / first.width);
  const layout = contactLayout(
    pictures.filter((p) => p.id !== '').map((p) => p.id),
    Math.round(first.width * k),
    Math.round(first.height * k),
  );
  const canvas = Object.assign(document.createElement('canvas'), { width: layout.width, height: layout.height });
  const draw = canvas.getContext('2d')!;
  draw.fillStyle = '#2b2b2b';
  draw.fillRect(0, 0, layout.width, layout.height);
  const own = Object.assign(document.createElement('canvas'), { width: first.width, height: first.height });
  for (const cell of layout.cells) {
    const picture = pictures.find((p) => p.id === cell.id)!;
    own.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(picture.rgba), picture.width, picture.height), 0, 0);
    draw.drawImage(own, cell.x, cell.y, cell.width, cell.height);
    const index = orderOf(setup.lights).indexOf(cell.id);
    const base = cell.y + cell.height;
    let x = cell.x;
    if (index >= 0) {
      draw.fillStyle = colourOf(index);
      draw.fillRect(x, base + 7, 26, 17);
      draw.fillStyle = '#000';
      draw.font = '700 12px "Archivo Variable", sans-serif';
      draw.textAlign = 'center';
      draw.fillText(letterOf(index), x + 13, base + 20);
      draw.textAlign = 'left';
      x += 34;
    }
    const [name, words] = captionOf(setup, cell.id);
    draw.fillStyle = '#f0f0f0';
    draw.font = '600 15px "Archivo Variable", sans-serif';
    draw.fillText(name, x, base + 20);
    draw.fillStyle = '#b0b0b0';
    draw.font = '400 12px "Archivo Variable", sans-serif';
    draw.fillText(words, x, base + 38);
    const light = setup.lights.items[cell.id];
    if (light) {
      draw.fillStyle = cssColour(lightColour(light));
      draw.fillRect(cell.x, base + 28, 26, 11);
    }
  }
  return new Promise((resolve, reject) =>
    canvas.toBlob((b) => (b ? resolve(b) : reject(new Error('The browser made no picture.'))), 'image/png'),
  );
}
