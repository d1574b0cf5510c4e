import type { ReactNode } from 'react';
import type { Spot } from '../../engine/messages.ts';

/** A card beside a point of the picture, on the side that has room. */
export function AtSpot({ at, label, testId, children }: { at: Spot; label: string; testId: string; children: ReactNode }) {
  const far = { left: at[0] > 0.5, up: at[1] > 0.5 };
  return (
    <>
      <i
        className="absolute size-2.5 -translate-1/2 rounded-full border border-white shadow"
        style={{ left: `${at[0] * 100}%`, top: `${at[1] * 100}%` }}
      />
      <div
        className="absolute z-10 w-72 rounded bg-base-100/95 p-2 text-xs shadow-lg"
        style={{
          left: `${at[0] * 100}%`,
          top: `${at[1] * 100}%`,
          transform: `translate(${far.left ? 'calc(-100% - 10px)' : '10px'}, ${far.up ? 'calc(-100% + 10px)' : '-10px'})`,
        }}
        // the picture below takes drags, wheels and clicks for itself
        onPointerDown={(e) => e.stopPropagation()}
        onClick={(e) => e.stopPropagation()}
        onWheel={(e) => e.stopPropagation()}
        role="group"
        aria-label={label}
        data-testid={testId}
      >
        {children}
      </div>
    </>
  );
}
