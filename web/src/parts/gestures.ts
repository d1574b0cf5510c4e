import { useId, useRef } from 'react';

const ALIKE = 'alike';
/** Whether a field was told with “=”: all lights in hand get its value, instead of going along with the first. */
export const setsAlike = (gesture: string | undefined): boolean => gesture?.startsWith(ALIKE) ?? false;
/** The name of one such step. */
export const alike = (gesture: string): string => `${ALIKE} ${gesture}`;

/** Hears Escape before anybody else, until what it answers is called. */
export function hearEscape(then: () => void): () => void {
  const hear = (e: KeyboardEvent) => {
    if (e.key !== 'Escape') return;
    e.preventDefault();
    e.stopImmediatePropagation();
    then();
  };
  window.addEventListener('keydown', hear, true);
  return () => window.removeEventListener('keydown', hear, true);
}

/** Names drags, so that each is one step of undo: by names that no other field or view gives. */
export function useGestures(): () => string {
  const own = useId(),
    count = useRef(0);
  return () => `drag-${own}-${++count.current}`;
}
