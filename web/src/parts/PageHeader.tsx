import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { Mark } from './Mark.tsx';

/** The head of a page: back to all setups, what it is, and its tools. */
export function PageHeader({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <header className="flex h-11 items-center gap-3 border-b hairline bg-base-200 px-3">
      <Link to="/" className="flex items-center gap-2 rounded px-1" aria-label="All setups">
        <Mark />
      </Link>
      <span className="quiet">▸</span>
      <h1 className="min-w-0 truncate font-semibold">{title}</h1>
      <span className="flex-1" />
      {children}
    </header>
  );
}
