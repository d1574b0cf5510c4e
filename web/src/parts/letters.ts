/** Three letters by chance, to end ids with: no other window chooses the same ones at the same moment. */
export const letters = (): string => [...crypto.getRandomValues(new Uint8Array(3))].map((v) => String.fromCharCode(97 + (v % 26))).join('');
