import { Search } from 'lucide-react';

/** Words that a list is looked through by. */
export function SearchBox(props: {
  value: string;
  onChange(value: string): void;
  /** What is found, for who does not see the box. */
  name: string;
  placeholder: string;
  className?: string;
}) {
  const { value, onChange, name, placeholder, className = 'input-xs w-full' } = props;
  return (
    <label className={`input ${className}`}>
      <Search size={12} aria-hidden />
      <input
        type="search"
        aria-label={name}
        placeholder={placeholder}
        value={value}
        maxLength={200}
        onChange={(e) => onChange(e.target.value)}
      />
    </label>
  );
}
