// Signing in and joining: the same card, with or without an invitation.
import type { Here } from '@plinket/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import { peopleApi } from '../api/people.ts';
import { Empty } from '../parts/Empty.tsx';
import { Mark } from '../parts/Mark.tsx';
import { nowHere } from './here.ts';
import { PasswordField } from './PasswordField.tsx';

/** A card with name and password; what the server has against them stands under it. */
function Card({
  title,
  words,
  verb,
  fresh,
  ask,
  done,
}: {
  title: string;
  words: ReactNode;
  verb: string;
  fresh?: boolean;
  ask(name: string, password: string): Promise<Here>;
  done?(): void;
}) {
  const queries = useQueryClient();
  const [refused, setRefused] = useState(''),
    [busy, setBusy] = useState(false);
  const send = async (form: FormData) => {
    setBusy(true);
    setRefused('');
    try {
      const here = await ask(String(form.get('name')), String(form.get('password')));
      nowHere(queries, here);
      done?.();
    } catch (error) {
      setRefused((error as Error).message);
      setBusy(false);
    }
  };
  return (
    <form
      className="w-80 rounded border hairline bg-base-100 p-6"
      onSubmit={(e) => {
        e.preventDefault();
        void send(new FormData(e.currentTarget));
      }}
    >
      <div className="mb-6 flex items-center gap-2">
        <Mark />
      </div>
      <h1 className="mb-1 text-base font-semibold">{title}</h1>
      <p className="quiet mb-4">{words}</p>
      <label className="mb-3 block">
        <span className="quiet mb-1 block text-2xs">Name</span>
        <input name="name" className="input input-sm w-full" autoComplete="username" maxLength={60} required autoFocus />
      </label>
      <PasswordField name="password" label="Password" fresh={fresh} />
      {refused && (
        <p role="alert" className="mb-3 text-warning">
          {refused}
        </p>
      )}
      <button className="btn w-full btn-primary btn-sm" disabled={busy}>
        {verb}
      </button>
    </form>
  );
}

/** @param again somebody was signed in here, and the page's work is still behind this */
export function SignIn({ again }: { again?: boolean }) {
  return (
    <Card
      title={again ? 'Sign in again' : 'Sign in'}
      words={
        again
          ? 'Your session has ended. What you did stays on the page, and is saved once you are signed in.'
          : 'No account yet? Whoever leads here can invite you.'
      }
      verb="Sign in"
      ask={peopleApi.signIn}
    />
  );
}

/** Where an invitation leads to: its word stands behind the #, which no server and no log sees. */
export function JoinPage() {
  const navigate = useNavigate();
  const invitation = location.hash.slice(1);
  if (!invitation)
    return (
      <Empty title="An invitation is missing">
        Its address ends with # and a long word. Copy all of it, or ask whoever leads for a new one.
      </Empty>
    );
  return (
    <div className="grid min-h-full place-items-center p-8">
      <Card
        title="Welcome"
        words="You are invited. Choose the name that others see beside what you do, and a password."
        verb="Begin"
        fresh
        ask={(name, password) => peopleApi.join(invitation, name, password)}
        done={() => void navigate('/', { replace: true })}
      />
    </div>
  );
}
