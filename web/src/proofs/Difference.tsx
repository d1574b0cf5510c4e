import type { Proof } from '@plinket/contract';
import { DIFFERENCE_RANGE, differenceColour, showDifference, stopsBetween, type DifferenceNumbers } from '@plinket/core';
import { useEffect, useRef, useState } from 'react';
import { api } from '../api/client.ts';
import { Pane } from './Pane.tsx';
import { useWallState } from './context.ts';

/** Most pixels that are told apart. */
const MOST_PIXELS = 400_000;

/** A proof's picture, 8 bit sRGB, at a size. @throws Error where it cannot be had */
async function pixelsOf(picture: string, width: number, height: number): Promise<Uint8ClampedArray> {
  const response = await fetch(api.blobUrl(picture));
  if (!response.ok) throw new Error('the picture is not there');
  const bitmap = await createImageBitmap(await response.blob(), { resizeWidth: width, resizeHeight: height, resizeQuality: 'high' });
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!;
  context.drawImage(bitmap, 0, 0);
  bitmap.close();
  return context.getImageData(0, 0, width, height).data;
}

const gradient = (): string =>
  `linear-gradient(to right, ${Array.from({ length: 9 }, (_, i) => `rgb(${differenceColour((i / 4 - 1) * DIFFERENCE_RANGE).join(' ')})`).join(', ')})`;

interface Props {
  first: Proof;
  other: Proof;
  number: number;
  width: number;
  height: number;
  onPin(proof: Proof, at: [number, number]): void;
}

/** Where and by how many stops one proof is brighter than the first. */
export function Difference({ first, other, number, width, height, onPin }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [told, setTold] = useState<{ of: string; numbers?: DifferenceNumbers; failed?: string }>();
  const { zoom, x, y } = useWallState((w) => w.crop);
  const of = `${first.picture} ${other.picture}`;
  const apart = Math.abs(Math.log((first.width * other.height) / (first.height * other.width))) > 0.01;
  useEffect(() => {
    if (apart) return;
    let left = false;
    // the smaller of the two says how fine it can be told, and the hand must not wait for what no eye sees
    const small = first.width < other.width ? first : other,
      k = Math.min(1, Math.sqrt(MOST_PIXELS / (small.width * small.height)));
    const w = Math.round(small.width * k),
      h = Math.round(small.height * k);
    Promise.all([pixelsOf(first.picture, w, h), pixelsOf(other.picture, w, h)])
      .then(([a, b]) => {
        const target = canvas.current;
        if (left || !target) return;
        Object.assign(target, { width: w, height: h });
        const image = new ImageData(w, h);
        const numbers = showDifference(stopsBetween(a, b), image.data);
        target.getContext('2d')!.putImageData(image, 0, 0);
        setTold({ of, numbers });
      })
      .catch((error: Error) => !left && setTold({ of, failed: error.message }));
    return () => {
      left = true;
    };
  }, [first, other, of, apart]);
  const { numbers, failed } = told?.of === of ? told : {};
  const refused = apart ? 'Their frames have different shapes: there is no difference to be told.' : failed;
  return (
    <div className="flex flex-col items-center gap-1">
      <Pane proof={other} number={number} width={width} height={height} onPin={(at) => onPin(other, at)}>
        {refused ? (
          <p className="grid h-full place-items-center p-4 text-center" role="status">
            {refused}
          </p>
        ) : (
          <canvas
            ref={canvas}
            aria-label={`${other.name} against ${first.name}`}
            className="absolute inset-0 h-full w-full origin-top-left"
            style={{ transform: `scale(${zoom}) translate(${(0.5 / zoom - x) * 100}%, ${(0.5 / zoom - y) * 100}%)` }}
          />
        )}
      </Pane>
      <p className="flex h-5 items-center gap-2 text-2xs" role="status" data-testid="difference">
        <span>−{DIFFERENCE_RANGE} st</span>
        <span className="h-2 w-28 rounded-sm" style={{ background: gradient() }} aria-hidden />
        <span>+{DIFFERENCE_RANGE} st</span>
        {numbers
          ? `as displayed: half of it within ${numbers.median.toFixed(2)} st, a twentieth beyond ${numbers.most.toFixed(1)} st; ${Math.round(numbers.share * 100)} % differ by half a stop or more`
          : !refused && 'being told …'}
      </p>
    </div>
  );
}
