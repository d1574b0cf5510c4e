/** A line that is kept when it is left; Escape leaves it as it was. One that is `needed` cannot be emptied. */
export function KeptText(props: {
  value: string;
  name: string;
  placeholder?: string;
  most: number;
  needed?: boolean;
  className?: string;
  change(value: string): void;
}) {
  const { value, name, placeholder, most, needed, className = '', change } = props;
  return (
    <input
      key={value}
      className={`input input-xs ${className}`}
      aria-label={name}
      placeholder={placeholder}
      defaultValue={value}
      maxLength={most}
      onBlur={(e) => {
        const next = e.target.value.trim();
        if (needed && !next) e.target.value = value;
        else if (next !== value) change(next);
      }}
      onKeyDown={(e) => {
        if (e.key === 'Escape') e.currentTarget.value = value;
        if (e.key === 'Enter' || e.key === 'Escape') e.currentTarget.blur();
      }}
    />
  );
}
