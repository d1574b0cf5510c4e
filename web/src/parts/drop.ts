import { useEffect, useRef, useState } from 'react';

/** Takes files dropped anywhere on the page; answers whether some are held over it. */
export function useFileDrop(take: (files: File[]) => void): boolean {
  const [over, setOver] = useState(false);
  const taking = useRef(take);
  taking.current = take;
  useEffect(() => {
    const carries = (e: DragEvent) => e.dataTransfer?.types.includes('Files') ?? false;
    const dragover = (e: DragEvent) => {
      if (!carries(e)) return;
      e.preventDefault();
      setOver(true);
    };
    const leave = (e: DragEvent) => {
      if (!e.relatedTarget) setOver(false);
    };
    const drop = (e: DragEvent) => {
      if (!carries(e)) return;
      e.preventDefault();
      setOver(false);
      taking.current([...(e.dataTransfer?.files ?? [])]);
    };
    window.addEventListener('dragover', dragover);
    window.addEventListener('dragleave', leave);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', dragover);
      window.removeEventListener('dragleave', leave);
      window.removeEventListener('drop', drop);
    };
  }, []);
  return over;
}
