import { MAX_PASSWORD, MIN_PASSWORD } from '@plinket/contract';

/** A password; one that is fresh must be long enough, and the browser offers to keep it. */
export function PasswordField({ name, label, fresh, first }: { name: string; label: string; fresh?: boolean; first?: boolean }) {
  return (
    <label className="mb-3 block">
      <span className="quiet mb-1 block text-2xs">{fresh ? `${label}, at least ${MIN_PASSWORD} characters` : label}</span>
      <input
        name={name}
        type="password"
        className="input input-sm w-full"
        autoComplete={fresh ? 'new-password' : 'current-password'}
        minLength={fresh ? MIN_PASSWORD : undefined}
        maxLength={MAX_PASSWORD}
        required
        autoFocus={first}
      />
    </label>
  );
}
