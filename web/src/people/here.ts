import type { Account, Here } from '@plinket/contract';
import { useQuery, type QueryClient } from '@tanstack/react-query';
import { peopleApi } from '../api/people.ts';

const KEY = ['here'];

/** Who one is here; asked once, and again after each signing in and out. */
export const useHere = () => useQuery({ queryKey: KEY, queryFn: peopleApi.here, staleTime: Infinity, retry: 20, retryDelay: 1500 });

/** Who has signed in; nobody where nobody needs to. */
export const useMe = (): Pick<Account, 'id' | 'name' | 'role'> | undefined => useHere().data?.account;

/** Takes over who one is now, and asks for everything that is shown anew. */
export function nowHere(queries: QueryClient, here: Here): void {
  queries.setQueryData(KEY, here);
  void queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== KEY[0] });
}

/** The server said that nobody is signed in: what is on the page stays, and is saved once somebody is. */
export function signedOut(queries: QueryClient): void {
  queries.setQueryData<Here>(KEY, { guarded: true });
}
