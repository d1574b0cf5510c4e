// Amounts in words.

/** Bytes for people: “45 MB”. */
export const bytesWords = (bytes: number): string =>
  bytes < 1e6
    ? `${Math.max(1, Math.round(bytes / 1e3))} kB`
    : bytes < 1e9
      ? `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`
      : `${(bytes / 1e9).toFixed(1)} GB`;

/** How long something is or takes: “9.5 s”, “12 min”, “3 h 20 min”. */
export function secondsWords(s: number): string {
  if (s < 90) return `${s < 10 ? s.toFixed(1) : Math.round(s)} s`;
  const minutes = Math.round(s / 60);
  if (minutes < 100) return `${minutes} min`;
  return `${Math.floor(minutes / 60)} h${minutes % 60 ? ` ${minutes % 60} min` : ''}`;
}
