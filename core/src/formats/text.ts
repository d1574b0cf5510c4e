/** Bytes as text: UTF-8 where they are, otherwise one character a byte; a mark at the beginning goes. */
export function textOf(bytes: Uint8Array): string {
  let out = '';
  for (let i = 0; i < bytes.length; i += 8192) out += String.fromCharCode(...bytes.subarray(i, i + 8192));
  try {
    if (/[\x80-\xff]/.test(out))
      out = decodeURIComponent(out.replace(/[%\x80-\xff]/g, (c) => '%' + c.charCodeAt(0).toString(16).padStart(2, '0')));
  } catch {
    // not UTF-8: names come out as they are
  }
  return out.replace(/^\uFEFF/, '');
}
