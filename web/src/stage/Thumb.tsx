import { useEffect, useRef } from 'react';
import { useView } from './context.ts';

/** A light's own live picture. */
export function Thumb({ id, height, testId }: { id: string; height: number; testId?: string }) {
  const thumb = useView((v) => v.thumbs.find((t) => t.id === id));
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (!thumb || !canvas.current) return;
    canvas.current.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(thumb.rgba), thumb.width, thumb.height), 0, 0);
  }, [thumb]);
  return (
    <canvas ref={canvas} width={164} height={84} className="block w-full bg-black" style={{ height }} aria-hidden data-testid={testId} />
  );
}
