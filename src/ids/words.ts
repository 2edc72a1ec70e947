/** The words of the id read last; a table copies or compares them at once, so nothing is allocated on the way. */
export const words = new Uint32Array(4);

/** Reads a canonical decimal integer from 0 to 10^15 − 1 into `words`. */
export function readInteger(id: string): boolean {
  const { length } = id;
  if (length === 0 || length > 15 || (length > 1 && id.charCodeAt(0) === 48)) return false;
  let value = 0;
  for (let i = 0; i < length; i++) {
    const digit = id.charCodeAt(i) - 48;
    if (digit < 0 || digit > 9) return false;
    value = value * 10 + digit;
  }
  words[0] = value;
  words[1] = value / 4294967296;
  return true;
}

/** The text of an integer that was read. */
export function integerText(keys: Uint32Array, at: number): string {
  return String(keys[at]! + keys[at + 1]! * 4294967296);
}

/** The text of a UUID that was read. */
export function uuidText(keys: Uint32Array, at: number): string {
  const digits = [0, 1, 2, 3].map((word) => keys[at + word]!.toString(16).padStart(8, "0")).join("");
  const parts = [digits.slice(0, 8), digits.slice(8, 12), digits.slice(12, 16), digits.slice(16, 20), digits.slice(20)];
  return parts.join("-");
}

/** Values of the characters 0-9 and a-f; 255 for every other below 128. */
const hexDigits = new Uint8Array(128).fill(255);
for (let i = 0; i < 16; i++) hexDigits[i.toString(16).charCodeAt(0)] = i;

/** Reads a UUID in lower case, 8-4-4-4-12, into `words`. */
export function readUuid(id: string): boolean {
  if (id.length !== 36 || id.charCodeAt(8) !== 45 || id.charCodeAt(13) !== 45) return false;
  if (id.charCodeAt(18) !== 45 || id.charCodeAt(23) !== 45) return false;
  return (
    readHex(id, 0, 8, 8, 0) && readHex(id, 9, 13, 14, 1) && readHex(id, 19, 23, 24, 2) && readHex(id, 28, 36, 36, 3)
  );
}

/** Eight hex digits from `start` to `end`, of which those after `skip` come once the dash there is passed. */
function readHex(id: string, start: number, dash: number, resume: number, word: number): boolean {
  let value = 0;
  let bad = 0;
  for (let i = start; i < dash; i++) {
    const c = id.charCodeAt(i);
    const digit = c < 128 ? hexDigits[c]! : 255;
    bad |= digit;
    value = (value << 4) | digit;
  }
  for (let i = resume; i < start + 8 + (resume - dash); i++) {
    const c = id.charCodeAt(i);
    const digit = c < 128 ? hexDigits[c]! : 255;
    bad |= digit;
    value = (value << 4) | digit;
  }
  words[word] = value;
  return bad < 16;
}
