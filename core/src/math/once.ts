/** Makes something the first time it is asked for, and never again: tables that depend on nothing. */
export function once<T>(make: () => T): () => T {
  let made: { value: T } | undefined;
  return () => (made ??= { value: make() }).value;
}
