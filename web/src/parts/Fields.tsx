import type { ReactNode } from 'react';

/** A labelled choice on a hairline, as number fields are. */
export function SelectField<T extends string>({
  label,
  value,
  options,
  onChange,
  title,
  testId,
}: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange(value: T): void;
  title?: string;
  testId?: string;
}) {
  return (
    <label className="flex h-6 items-center gap-2 border-b hairline" title={title}>
      <span className="quiet min-w-0 flex-1 truncate">{label}</span>
      <select
        className="max-w-[62%] rounded-sm bg-base-200 px-1 text-right font-semibold"
        value={value}
        data-testid={testId}
        onChange={(e) => onChange(e.target.value as T)}
      >
        {options.map(([v, words]) => (
          <option key={v} value={v}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}

/** A labelled yes or no on a hairline. */
export function CheckField({
  label,
  value,
  onChange,
  title,
  testId,
}: {
  label: string;
  value: boolean;
  onChange(value: boolean): void;
  title?: string;
  testId?: string;
}) {
  return (
    <label className="flex h-6 cursor-pointer items-center gap-2 border-b hairline" title={title}>
      <span className="quiet min-w-0 flex-1 truncate">{label}</span>
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        checked={value}
        data-testid={testId}
        onChange={(e) => onChange(e.target.checked)}
      />
    </label>
  );
}

/** A colour that is picked, with its swatch. */
export function ColourField({
  label,
  value,
  onChange,
  testId,
}: {
  label: string;
  value: string;
  onChange(hex: string): void;
  testId?: string;
}) {
  return (
    <label className="flex h-6 cursor-pointer items-center gap-2 border-b hairline">
      <span className="quiet min-w-0 flex-1 truncate">{label}</span>
      <input
        type="color"
        className="h-4 w-8 cursor-pointer rounded-sm border-0 bg-transparent p-0"
        value={value}
        aria-label={label}
        data-testid={testId}
        onChange={(e) => onChange(e.target.value)}
      />
    </label>
  );
}

/** A small heading of a sheet. */
export const Heading = ({ children }: { children: ReactNode }) => <h3 className="caps quiet">{children}</h3>;

/** One of several that can be taken together, by a box before its words; `name` where the words alone would not say what it is. */
export function CheckOf<T>(props: {
  value: T;
  chosen: ReadonlySet<T>;
  onChosen(chosen: ReadonlySet<T>): void;
  words: string;
  name?: string;
}) {
  const { value, chosen, onChosen, words, name } = props;
  return (
    <label className="flex min-h-6 items-center gap-1.5">
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        checked={chosen.has(value)}
        aria-label={name}
        onChange={(e) => onChosen(new Set([...chosen].filter((v) => v !== value).concat(e.target.checked ? [value] : [])))}
      />
      <span className="truncate">{words}</span>
    </label>
  );
}
