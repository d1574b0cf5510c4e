import { useEffect, useRef, useState, type RefObject } from 'react';

interface Size {
  width: number;
  height: number;
}

/** The room that an element has, px; `first` before that is known. */
export function useSize<E extends HTMLElement>(first: Size = { width: 0, height: 0 }): [RefObject<E | null>, Size] {
  const ref = useRef<E>(null);
  const [size, setSize] = useState(first);
  useEffect(() => {
    const observer = new ResizeObserver(([entry]) => setSize({ width: entry!.contentRect.width, height: entry!.contentRect.height }));
    observer.observe(ref.current!);
    return () => observer.disconnect();
  }, []);
  return [ref, size];
}
