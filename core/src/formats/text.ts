const CHUNK = 8192;

/** Bytes as text: UTF-16 where a mark at the beginning says so, UTF-8 where they are, otherwise one character a byte; the mark goes. */
export function textOf(bytes: Uint8Array): string {
  // byte order marks of UTF-16 (RFC 2781, 3.2)
  const little = bytes[0] === 0xff && bytes[1] === 0xfe;
  if (little || (bytes[0] === 0xfe && bytes[1] === 0xff)) return fromUnits(bytes.subarray(2), little ? 0 : 1);
  let out = '';
  for (let i = 0; i < bytes.length; i += CHUNK) out += String.fromCharCode(...bytes.subarray(i, i + CHUNK));
  try {
    if (/[\x80-\xff]/.test(out))
      out = decodeURIComponent(out.replace(/[%\x80-\xff]/g, (c) => '%' + c.charCodeAt(0).toString(16).padStart(2, '0')));
  } catch {
    // not UTF-8: names come out as they are
  }
  return out.replace(/^\uFEFF/, '');
}

/** Units of UTF-16, two bytes each; `low` is which of both is the lower. */
function fromUnits(bytes: Uint8Array, low: 0 | 1): string {
  const units = Uint16Array.from({ length: bytes.length >> 1 }, (_, i) => bytes[2 * i + low]! | (bytes[2 * i + 1 - low]! << 8));
  let out = '';
  for (let i = 0; i < units.length; i += CHUNK) out += String.fromCharCode(...units.subarray(i, i + CHUNK));
  return out;
}

/** JSON in plain ASCII, as chunks of PNG (its specification, 11.3.4.3: Latin-1) and attributes of EXR want it. */
export const asciiJson = (value: unknown): string =>
  JSON.stringify(value).replace(/[^ -~]/g, (c) => `\\u${c.charCodeAt(0).toString(16).padStart(4, '0')}`);
