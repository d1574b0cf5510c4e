import { inOrder, isPlaced, clamp, DEGREE, type Setup } from '@plinket/core';
import { useEffect, useRef, useState, type RefObject } from 'react';
import { useStage, useView } from './context.ts';

/** How far paper reaches and how large a pixel is on it, metres. */
export interface Paper {
  halfW: number;
  halfH: number;
  /** Metres of one pixel: what is drawn for the eye (letters, lines) is sized by it. */
  px: number;
}

/** Nearest and furthest that paper can be brought. */
const ZOOM = [0.1, 12] as const;

/** Pixels beside a light that its letter takes. */
const LETTER = 18;

/** What a light reaches beyond its middle in SIDE, about, metres. */
const ITSELF = 0.3;

/** Half the height that paper must have so that everything is on it with its letters, metres. */
function wholeHalf(setup: Setup, kind: 'plan' | 'side', width: number, height: number): number {
  const places = inOrder(setup.lights).flatMap((l) => (isPlaced(l) ? [l.place] : []));
  const far = 1.12 * Math.max(1.5, ...places.map((p) => p.distance));
  if (kind === 'plan') return Math.max(far, (far * height) / Math.max(1, width - 2 * LETTER));
  const high = Math.max(0, ...places.map((p) => p.distance * Math.abs(Math.sin(p.elevation * DEGREE)) + ITSELF));
  return Math.max(1.35, (far * height) / Math.max(1, width - 2 * LETTER), (high * height) / Math.max(1, height - 2 * LETTER));
}

/**
 * The scale of PLAN or SIDE. It fits the set, or is what wheel and pinch have made of that; while something on it is dragged it stands
 * still, so that the thing stays under the hand.
 */
export function usePaper(kind: 'plan' | 'side', width: number, height: number, setup: Setup, svg: RefObject<SVGSVGElement | null>) {
  const { view } = useStage();
  const zoom = useView((v) => v.zoom[kind]);
  const [held, hold] = useState<number>();
  const halfH = held ?? wholeHalf(setup, kind, width, height) * zoom;
  const holding = useRef(false);
  holding.current = held !== undefined;
  useEffect(() => {
    const element = svg.current;
    if (!element) return;
    // a pinch comes as a wheel with Ctrl, and would zoom the page
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      if (holding.current) return;
      const factor = Math.exp(clamp(e.deltaY, [-120, 120]) * (e.ctrlKey ? 0.01 : 0.0016));
      view.setState((v) => ({ zoom: { ...v.zoom, [kind]: clamp(v.zoom[kind] * factor, ZOOM) } }));
    };
    element.addEventListener('wheel', wheel, { passive: false });
    return () => element.removeEventListener('wheel', wheel);
  }, [svg, view, kind]);
  const paper: Paper = { halfH, halfW: (halfH * width) / height, px: (2 * halfH) / height };
  return {
    paper,
    zoomed: Math.abs(zoom - 1) > 1e-3,
    /** The whole set on the paper again. */
    fit: () => view.setState((v) => ({ zoom: { ...v.zoom, [kind]: 1 } })),
    hold: () => hold(halfH),
    letGo: () => hold(undefined),
  };
}
