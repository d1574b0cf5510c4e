import { Link, useRouteError } from 'react-router';
import { Empty } from './Empty.tsx';

/** Stands where a page broke: what is known, and two ways back. What was not saved yet is kept and sent by the next visit. */
export function Broken() {
  const error = useRouteError();
  return (
    <Empty
      title="This page broke"
      action={
        <div className="flex justify-center gap-2">
          <button className="btn btn-primary btn-sm" onClick={() => window.location.reload()}>
            Open it again
          </button>
          <Link className="btn btn-sm" to="/" reloadDocument>
            All setups
          </Link>
        </div>
      }
    >
      <p>
        A mistake of ours, not of yours. Changes are saved as you make them; what was not yet sent is sent when the setup is opened again.
      </p>
      <p className="mt-2 text-2xs">{error instanceof Error ? error.message : String(error)}</p>
    </Empty>
  );
}
