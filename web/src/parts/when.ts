/** A day in ms. */
const DAY = 86_400_000;

/** Midnight of a moment's day, where the reader is. */
const dayOf = (at: Date): number => new Date(at.getFullYear(), at.getMonth(), at.getDate()).getTime();

/**
 * When something was, as the reader says it: the time today, “yesterday”, a few days ago, then the date in their own form.
 * @param locales of the reader; the browser's by default
 */
export function when(at: Date, now: Date, locales: readonly string[] | undefined = globalThis.navigator?.languages): string {
  const language = locales as string[] | undefined;
  const days = Math.round((dayOf(now) - dayOf(at)) / DAY);
  if (days <= 0) return at.toLocaleTimeString(language, { hour: 'numeric', minute: '2-digit' });
  if (days < 7) return new Intl.RelativeTimeFormat('en', { numeric: 'auto' }).format(-days, 'day');
  return at.toLocaleDateString(language, {
    day: 'numeric',
    month: 'short',
    ...(at.getFullYear() === now.getFullYear() ? {} : { year: 'numeric' }),
  });
}
