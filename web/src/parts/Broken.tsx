import { Link, useParams, useRouteError } from 'react-router';
import { hasUnsent, setAsideAll } from '../document/unsent.ts';
import { Empty } from './Empty.tsx';
import { browserStorage } from './storage.ts';

/** Stands where a page broke: what is known, and the ways back. What was not saved yet is kept and sent by the next visit. */
export function Broken() {
  const error = useRouteError();
  const { id } = useParams();
  const again = () => window.location.reload();
  return (
    <Empty
      title="This page broke"
      action={
        <div className="flex justify-center gap-2">
          <button className="btn btn-primary btn-sm" onClick={again}>
            Open it again
          </button>
          {id !== undefined && hasUnsent(id, browserStorage) && (
            <button
              className="btn btn-sm"
              onClick={() => {
                setAsideAll(id, browserStorage);
                again();
              }}
            >
              Open without what was not sent
            </button>
          )}
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
