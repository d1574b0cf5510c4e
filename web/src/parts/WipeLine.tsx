/** The line between two pictures that lie over each other, moved by the arrow keys; whoever holds it moves it by the pointer. */
export function WipeLine({ at, onAt, label }: { at: number; onAt(at: number): void; label: string }) {
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(at * 100)}
      className="absolute inset-y-0 w-px bg-white/90"
      style={{ left: `${at * 100}%` }}
      onKeyDown={(e) => {
        if (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight') return;
        e.preventDefault();
        e.stopPropagation();
        onAt(Math.min(1, Math.max(0, at + (e.key === 'ArrowLeft' ? -0.02 : 0.02))));
      }}
    />
  );
}
