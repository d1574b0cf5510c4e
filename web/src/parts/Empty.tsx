import type { ReactNode } from 'react';

/** Nothing here, something wrong, or not there yet: says what, and what to do next. */
export function Empty({ title, children, action }: { title: string; children?: ReactNode; action?: ReactNode }) {
  return (
    <div className="grid h-full place-items-center p-8" role="status">
      <div className="max-w-sm text-center">
        <h2 className="mb-1 text-base font-semibold">{title}</h2>
        <div className="quiet mb-4">{children}</div>
        {action}
      </div>
    </div>
  );
}
