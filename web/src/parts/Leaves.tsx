/** Leaves of a sheet as tabs on a hairline; `spread` over its width, or one beside the other. */
export function Leaves<T extends string>({
  label,
  leaves,
  open,
  spread,
  onOpen,
}: {
  label: string;
  leaves: readonly (readonly [leaf: T, words: string])[];
  open: T;
  spread?: boolean;
  onOpen(leaf: T): void;
}) {
  return (
    <div role="tablist" aria-label={label} className={`mb-1 flex border-b hairline ${spread ? 'justify-between' : 'gap-5'}`}>
      {leaves.map(([leaf, words]) => (
        <button
          key={leaf}
          role="tab"
          aria-selected={open === leaf}
          className={`h-6 px-0.5 text-2xs ${open === leaf ? 'border-b border-base-content font-semibold' : 'quiet'}`}
          onClick={() => onOpen(leaf)}
        >
          {words}
        </button>
      ))}
    </div>
  );
}
