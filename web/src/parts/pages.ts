import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';

/** For what a page is about: it is asked for until the server is there, and stays on the screen while other words are looked for. */
export const UNTIL_THERE = { retry: 20, retryDelay: 1500, placeholderData: keepPreviousData };

/** A list that comes in pages: what has come so far, and how to have more. */
export function usePages<T>(
  key: readonly unknown[],
  ask: (cursor: string | undefined) => Promise<{ items: T[]; next?: string }>,
  options: { retry?: number; retryDelay?: number; placeholderData?: typeof keepPreviousData } = {},
) {
  const query = useInfiniteQuery({
    queryKey: key,
    queryFn: ({ pageParam }) => ask(pageParam),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: (page) => page.next,
    ...options,
  });
  return { ...query, items: query.data?.pages.flatMap((p) => p.items) };
}
