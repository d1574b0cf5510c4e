import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState, type ReactNode } from 'react';
import { onSignedOut } from '../api/client.ts';
import { signedOut, useHere } from './here.ts';
import { SignIn } from './SignIn.tsx';

/** Lets in who may. Who was in and is no more finds the page as it was, behind the card. */
export function Gate({ children }: { children: ReactNode }) {
  const queries = useQueryClient();
  const here = useHere();
  const [wasIn, setWasIn] = useState(false);
  useEffect(() => onSignedOut(() => signedOut(queries)), [queries]);
  // the page begins while that is asked: on a server of this machine nobody is ever asked in
  const outside = here.data?.guarded === true && here.data.account === undefined;
  if (here.data && !outside && !wasIn) setWasIn(true);
  if (!outside || location.pathname === '/join') return children;
  const card = (
    <div className="grid min-h-full place-items-center p-8">
      <SignIn again={wasIn} />
    </div>
  );
  if (!wasIn) return card;
  return (
    <>
      {/* what is behind is neither seen by a screen reader nor reached by a key */}
      <div className="h-full" inert>
        {children}
      </div>
      <div className="fixed inset-0 z-50 bg-base-200/85" role="dialog" aria-modal aria-label="Sign in again">
        {card}
      </div>
    </>
  );
}
