import { useInfiniteQuery, type keepPreviousData } from '@tanstack/react-query';

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
