// The people of a server: who they are, who is invited, and who did what.
import { ROLES, type Account, type Deed, type MadeInvitation, type Role } from '@plinket/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { UserPlus, X } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { peopleApi } from '../api/people.ts';
import { Empty } from '../parts/Empty.tsx';
import { PageHeader } from '../parts/PageHeader.tsx';
import { usePages } from '../parts/pages.ts';
import { SaidOnce } from '../parts/SaidOnce.tsx';
import { when } from '../parts/when.ts';
import { useMe } from './here.ts';
import { deedWords, roleWords } from './words.ts';

const PAGE = 60;

/** Does something and asks for the lists anew; what the server has against it is said. */
function useDoing() {
  const queries = useQueryClient();
  return (work: Promise<unknown>, failed: string): void =>
    void work
      .catch((error: Error) => toast.error(`${failed}: ${error.message}`))
      .finally(() => queries.invalidateQueries({ queryKey: ['people'] }));
}

function Person({ of, me, heard, hear }: { of: Account; me: boolean; heard: boolean; hear(name: string | undefined): void }) {
  const doing = useDoing();
  const [sure, setSure] = useState(false);
  return (
    <li className="flex h-10 items-center gap-2 border-b hairline" data-testid="person">
      <button
        className={`min-w-0 flex-1 truncate py-1 text-left hover:underline ${heard ? 'font-semibold' : ''}`}
        aria-pressed={heard}
        title="Only what this person did"
        onClick={() => hear(heard ? undefined : of.name)}
      >
        {of.name}
        {me && <span className="quiet"> (you)</span>}
        <span className="quiet block text-2xs leading-3">
          {of.seenAt ? `signed in ${when(new Date(of.seenAt), new Date())}` : 'was never here'}
        </span>
      </button>
      <select
        className="select w-22 select-xs"
        aria-label={`Role of ${of.name}`}
        title={roleWords(of.role)}
        value={of.role}
        onChange={(e) => doing(peopleApi.changeRole(of.id, e.target.value as Role), 'The role stays')}
      >
        {ROLES.map((role) => (
          <option key={role}>{role}</option>
        ))}
      </select>
      {sure ? (
        <button
          className="btn btn-xs btn-error"
          autoFocus
          onBlur={() => setSure(false)}
          onClick={() => doing(peopleApi.remove(of.id), `${of.name} stays`)}
        >
          Sign out for good
        </button>
      ) : (
        <button
          className="btn btn-ghost btn-xs btn-square"
          aria-label={`Take the account of ${of.name} away`}
          onClick={() => setSure(true)}
        >
          <X size={12} />
        </button>
      )}
    </li>
  );
}

/** The address that lets somebody in, said only once. */
const Made = ({ made, leave }: { made: MadeInvitation; leave(): void }) => (
  <SaidOnce
    name="An invitation"
    title={`Whoever opens this ${made.role}s here`}
    said={`${location.origin}/join#${made.invitation}`}
    testId="invitation"
    leave={leave}
  >
    Once, within a week. The address is said only now; it can be taken back under Invitations.
  </SaidOnce>
);

function Invitations() {
  const doing = useDoing();
  const asked = useQuery({ queryKey: ['people', 'invitations'], queryFn: peopleApi.invitations });
  const [made, setMade] = useState<MadeInvitation>();
  return (
    <section className="border-t hairline px-4 py-3" aria-label="Invitations">
      <h2 className="mb-2 caps">Invite somebody who</h2>
      <div className="flex gap-1">
        {ROLES.map((role) => (
          <button
            key={role}
            className="btn flex-1 btn-xs"
            title={roleWords(role)}
            onClick={() => doing(peopleApi.invite(role).then(setMade), 'Nobody was invited')}
          >
            <UserPlus size={12} /> {role}s
          </button>
        ))}
      </div>
      <ul className="mt-2" aria-label="Invitations that nobody has used">
        {asked.data?.items.map((i) => (
          <li key={i.id} className="flex h-7 items-center gap-2" data-testid="invited">
            <span className="quiet min-w-0 flex-1 truncate text-2xs">
              to {i.role}, {i.by ? `by ${i.by}, ` : ''}until {new Date(i.expiresAt).toLocaleDateString()}
            </span>
            <button
              className="btn btn-ghost btn-xs btn-square"
              aria-label={`Take the invitation to ${i.role} back`}
              onClick={() => doing(peopleApi.uninvite(i.id), 'The invitation stands')}
            >
              <X size={12} />
            </button>
          </li>
        ))}
      </ul>
      {made && <Made made={made} leave={() => setMade(undefined)} />}
    </section>
  );
}

/** Where the page of a document is. */
const PAGES: { readonly [kind: string]: string } = { setup: '/setup/', sequence: '/sequence/' };

function Row({ of: d }: { of: Deed }) {
  const page = d.document && PAGES[d.document.kind];
  return (
    <tr className="border-b hairline" data-testid="deed">
      <td className="quiet w-24 py-1.5 pr-3 align-top whitespace-nowrap" title={new Date(d.at).toLocaleString()}>
        {when(new Date(d.at), new Date())}
      </td>
      <td className="w-36 truncate py-1.5 pr-3 align-top font-semibold">{d.name}</td>
      <td className="py-1.5 pr-3">{deedWords(d)}</td>
      <td className="w-52 truncate py-1.5 align-top">
        {d.document &&
          (page ? (
            <Link className="link" to={page + d.document.id}>
              {d.document.name}
            </Link>
          ) : (
            d.document.name
          ))}
      </td>
    </tr>
  );
}

export function PeoplePage() {
  const me = useMe();
  const [heard, setHeard] = useState<string>();
  const people = useQuery({ queryKey: ['people', 'accounts'], queryFn: peopleApi.people, retry: false });
  const deeds = usePages(['people', 'deeds', heard], (cursor) => peopleApi.deeds({ cursor, search: heard, limit: PAGE }));
  if (people.isError)
    return (
      <Empty
        title="People are not shown here"
        action={
          <Link className="btn btn-primary btn-sm" to="/">
            All setups
          </Link>
        }
      >
        {me ? people.error.message : 'On a server of this machine only nobody signs in, and nobody is asked who they are.'}
      </Empty>
    );
  return (
    <div className="flex h-full flex-col">
      <PageHeader title="People" />
      <main className="flex min-h-0 flex-1">
        <aside className="flex w-80 shrink-0 flex-col border-r hairline">
          <ul className="min-h-0 flex-1 overflow-y-auto px-4" aria-label="Accounts" tabIndex={0}>
            {people.data?.items.map((p) => (
              <Person key={p.id} of={p} me={p.id === me?.id} heard={p.name === heard} hear={setHeard} />
            ))}
          </ul>
          <Invitations />
        </aside>
        <section className="min-w-0 flex-1 overflow-y-auto px-6 py-4" aria-label="What was done" tabIndex={0}>
          <h2 className="mb-2 caps">{heard ? `What ${heard} did` : 'What was done'}</h2>
          <table className="w-full table-fixed">
            <tbody>
              {deeds.items?.map((d) => (
                <Row key={d.id} of={d} />
              ))}
            </tbody>
          </table>
          {deeds.items?.length === 0 && <p className="quiet">Nothing yet.</p>}
          {deeds.hasNextPage && (
            <button className="btn mt-3 btn-sm" disabled={deeds.isFetchingNextPage} onClick={() => void deeds.fetchNextPage()}>
              Show more
            </button>
          )}
        </section>
      </main>
    </div>
  );
}
