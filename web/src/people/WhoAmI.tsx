// Who has signed in, and what one can do about it.
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { peopleApi } from '../api/people.ts';
import { useMe } from './here.ts';
import { PasswordField } from './PasswordField.tsx';
import { roleWords } from './words.ts';

function NewPassword({ leave }: { leave(): void }) {
  const [refused, setRefused] = useState('');
  const send = (form: FormData) =>
    peopleApi.changePassword(String(form.get('password')), String(form.get('next'))).then(
      () => {
        toast('Your password is changed; you are signed out everywhere else.');
        leave();
      },
      (error: Error) => setRefused(error.message),
    );
  return (
    <dialog open className="modal modal-open" aria-label="Change your password" onKeyDown={(e) => e.key === 'Escape' && leave()}>
      <form
        className="modal-box w-90"
        onSubmit={(e) => {
          e.preventDefault();
          void send(new FormData(e.currentTarget));
        }}
      >
        <h2 className="mb-3 text-base font-semibold">Change your password</h2>
        <PasswordField name="password" label="The one you have" first />
        <PasswordField name="next" label="The new one" fresh />
        {refused && (
          <p role="alert" className="mb-3 text-warning">
            {refused}
          </p>
        )}
        <div className="flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={leave}>
            Leave it
          </button>
          <button className="btn btn-primary btn-sm">Change it</button>
        </div>
      </form>
    </dialog>
  );
}

/** Nothing where nobody needs to sign in. */
export function WhoAmI() {
  const me = useMe();
  const [changing, setChanging] = useState(false);
  if (!me) return null;
  const out = () =>
    void peopleApi.signOut().then(
      // nothing of it stays in this window
      () => location.assign('/'),
      (error: Error) => toast.error(`You are still signed in: ${error.message}`),
    );
  return (
    <>
      <details className="dropdown dropdown-end">
        <summary className="btn btn-ghost btn-sm" data-testid="me">
          {me.name}
        </summary>
        <ul className="dropdown-content menu z-30 mt-1 w-56 rounded border hairline bg-base-100 p-1">
          <li className="quiet px-3 py-1 text-2xs">{roleWords(me.role)}</li>
          {me.role === 'lead' && (
            <li>
              <Link to="/people">People and what was done</Link>
            </li>
          )}
          <li>
            <button onClick={() => setChanging(true)}>Change your password</button>
          </li>
          <li>
            <button onClick={out}>Sign out</button>
          </li>
        </ul>
      </details>
      {changing && <NewPassword leave={() => setChanging(false)} />}
    </>
  );
}
