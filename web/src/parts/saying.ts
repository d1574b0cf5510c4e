import { useQueryClient, type QueryKey } from '@tanstack/react-query';
import { toast } from 'sonner';

/** A change of something that lists and leaves show. */
export interface Said<T> {
  /** What it is called, and under which key it is known. */
  name: string;
  key: QueryKey;
  /** What shows it, too. */
  lists: QueryKey;
  /** What it is then, until the server says so. */
  after(now: T): T;
  send(): Promise<unknown>;
}

/** Changes something at once on the screen; what was not kept is said, taken back, and can be tried again. */
export function useSaying() {
  const queries = useQueryClient();
  const say = <T>(said: Said<T>): void => {
    const { name, key, lists, after, send } = said;
    queries.setQueryData<T>(key, (now) => now && after(now));
    // what the server has counts, whether it took the change or not
    const refresh = (of: QueryKey) => queries.invalidateQueries({ queryKey: of });
    send()
      .then(() => Promise.all([refresh(key), refresh(lists)]))
      .catch((error: Error) => {
        toast.error(`${name} was not changed: ${error.message}`, {
          duration: 60_000,
          action: { label: 'Try again', onClick: () => say(said) },
        });
        return refresh(key);
      });
  };
  return say;
}
