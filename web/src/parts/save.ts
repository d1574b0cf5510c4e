/** Gives a file to the browser, under a name that any disk takes. */
export function save(file: Blob, name: string): void {
  const url = URL.createObjectURL(file);
  Object.assign(document.createElement('a'), { href: url, download: name.replace(/[^\p{L}\p{N}.]+/gu, '-') }).click();
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
