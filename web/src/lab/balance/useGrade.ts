// The page's end of the worker in which finished pictures are balanced.
import type { Setup } from '@plinket/core';
import { useEffect, useRef, useState, type RefObject } from 'react';
import { engineUrls } from '../../engine/urls.ts';
import type { Shown } from './grade.ts';
import type { FromGrade, ToGrade } from './messages.ts';

/** A frame that can be balanced: on the server by its SHA-256, or as it came from a disk. */
export interface Gradable {
  key: string;
  label: string;
  films: string | Uint8Array<ArrayBuffer>;
  /** SHA-256 of its setup's JSON; without one the file says it. */
  setup?: string;
}

export interface GradeState {
  /** The frame's setup as it was rendered; nothing until it is open. */
  setup?: Setup;
  failed?: string;
  size?: { width: number; height: number };
  ms?: number;
}

/** Shows a frame under a balance on a canvas. */
export function useGrade(frame: Gradable | undefined, shown: Shown, canvas: RefObject<HTMLCanvasElement | null>): GradeState {
  const worker = useRef<Worker>(undefined);
  const number = useRef(0),
    opened = useRef(0);
  const [state, setState] = useState<GradeState>({});
  const wanted = useRef(shown);

  useEffect(() => {
    const made = new Worker(new URL('./grade-worker.ts', import.meta.url), { type: 'module' });
    worker.current = made;
    made.postMessage({ type: 'url', film: engineUrls().film } satisfies ToGrade);
    made.onmessage = ({ data }: MessageEvent<FromGrade>) => {
      if (data.type !== 'picture') {
        // what is said of a frame that was left meanwhile is of no interest
        if (data.number !== opened.current) return;
        return setState(data.type === 'failed' ? { failed: data.message } : { setup: data.setup });
      }
      if (data.number < opened.current) return;
      const { width, height, rgba, ms } = data.picture,
        on = canvas.current;
      if (!on) return;
      if (on.width !== width || on.height !== height) Object.assign(on, { width, height });
      on.getContext('2d')!.putImageData(new ImageData(rgba, width, height), 0, 0);
      on.dataset['number'] = String(data.number);
      setState((s) => ({ ...s, size: { width, height }, ms }));
    };
    made.onerror = (e) => setState({ failed: e.message || 'the worker could not be started' });
    return () => made.terminate();
  }, [canvas]);

  useEffect(() => {
    wanted.current = shown;
    worker.current?.postMessage({ type: 'show', number: ++number.current, shown } satisfies ToGrade);
    if (canvas.current) canvas.current.dataset['wanted'] = String(number.current);
  }, [shown, canvas]);

  const { films, setup, key } = frame ?? {};
  useEffect(() => {
    if (films === undefined) return;
    setState({});
    // pictures of the frame before it are not shown any more
    opened.current = ++number.current;
    let left = false;
    const open = async () => {
      const document = setup ? ((await (await fetch(`/api/blobs/${setup}`)).json()) as Setup) : undefined;
      if (left) return;
      worker.current?.postMessage({
        type: 'open',
        number: (opened.current = ++number.current),
        films,
        shown: wanted.current,
        ...(document ? { setup: document } : {}),
      } satisfies ToGrade);
    };
    open().catch((error: Error) => setState({ failed: error.message }));
    return () => {
      left = true;
    };
  }, [films, setup, key]);
  return state;
}
