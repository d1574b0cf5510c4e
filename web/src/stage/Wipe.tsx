import type { PointerEvent } from 'react';
import { WipeLine } from '../parts/WipeLine.tsx';
import { useStage, useView } from './context.ts';

/** The last proof over the left part of the picture, up to a line that can be dragged or moved by the arrow keys. */
export function Wipe({ src, name }: { src: string; name: string }) {
  const { view } = useStage();
  const at = useView((v) => v.wipe) ?? 0.5;
  const set = (v: number) => view.setState({ wipe: Math.min(1, Math.max(0, v)) });
  const onPointer = (e: PointerEvent<HTMLDivElement>) => {
    if (e.type === 'pointerdown') e.currentTarget.setPointerCapture(e.pointerId);
    else if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
    const box = e.currentTarget.getBoundingClientRect();
    set((e.clientX - box.left) / box.width);
  };
  return (
    <div className="absolute inset-0 cursor-ew-resize touch-none" onPointerDown={onPointer} onPointerMove={onPointer} data-testid="wipe">
      <img
        src={src}
        alt={`${name}, before`}
        draggable={false}
        className="absolute inset-0 h-full w-full select-none"
        style={{ clipPath: `inset(0 ${(1 - at) * 100}% 0 0)` }}
      />
      <WipeLine at={at} onAt={set} label="Line between before and after" />
      <span className="absolute bottom-1 left-1 rounded-sm bg-black/60 px-1 text-2xs text-white">{name}</span>
      <span className="absolute right-1 bottom-1 rounded-sm bg-black/60 px-1 text-2xs text-white">now</span>
    </div>
  );
}
