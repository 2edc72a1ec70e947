/** Bytes as UTF-8 text without a byte order mark; undefined if they are none. */
export function decodeText(bytes: Uint8Array): string | undefined {
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(bytes);
  } catch {
    return undefined;
  }
}
