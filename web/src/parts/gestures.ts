import { useId, useRef } from 'react';

/** Names drags, so that each is one step of undo: by names that no other field or view gives. */
export function useGestures(): () => string {
  const own = useId(),
    count = useRef(0);
  return () => `drag-${own}-${++count.current}`;
}
