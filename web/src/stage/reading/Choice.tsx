import type { ReactNode } from 'react';

/** As all choices of these pages look. */
export const SELECT = 'select select-xs h-6 min-h-0 shrink-0 py-0';

/** A line of a page: what it is about, and what can be done. */
export function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="flex min-h-6.5 items-center gap-1 whitespace-nowrap">
      <span className="quiet w-16 shrink-0">{label}</span>
      {children}
    </div>
  );
}

interface ChoiceProps<T> {
  label: string;
  value: T;
  of: readonly (readonly [T, string])[];
  choose: (v: T) => void;
  /** Width that the longest of them needs. */
  wide: string;
}

/** One of a few. */
export function Choice<T extends string | number>({ label, value, of, choose, wide }: ChoiceProps<T>) {
  return (
    <select
      className={`${SELECT} ${wide}`}
      aria-label={label}
      value={value}
      onChange={(e) => choose(of.find(([v]) => String(v) === e.target.value)![0])}
    >
      {of.map(([v, words]) => (
        <option key={v} value={v}>
          {words}
        </option>
      ))}
    </select>
  );
}
