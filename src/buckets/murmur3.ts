/**
 * MurmurHash3 x86 32-bit by Austin Appleby (public domain, SMHasher), over the UTF-8 bytes of a text, without making
 * those bytes: the text's own units are consumed four bytes at a time. A lone surrogate counts as U+FFFD.
 *
 * A text can be hashed in two parts, of which the first fills whole blocks: `state` and `before` are what `absorb` gave
 * for it.
 *
 * @param state where the hash stands; the seed at the beginning
 * @param before the bytes that went in already, a multiple of four
 * @returns an unsigned 32-bit number
 * @example murmur3("A-17") // of the whole text, seed 0
 */
export function murmur3(text: string, state = 0, before = 0): number {
  const length = text.length;
  const blocks = length & ~3;
  let hash = state | 0;
  // All units together tell at the end whether one was outside ASCII; asking at each would cost more than hashing.
  let seen = 0;
  let i = 0;
  for (; i < blocks; i += 4) {
    const a = text.charCodeAt(i);
    const b = text.charCodeAt(i + 1);
    const c = text.charCodeAt(i + 2);
    const d = text.charCodeAt(i + 3);
    seen |= a | b | c | d;
    hash = mixBlock(hash, a | (b << 8) | (c << 16) | (d << 24));
  }
  let tail = 0;
  for (let shift = 0; i < length; i++, shift += 8) {
    const c = text.charCodeAt(i);
    seen |= c;
    tail |= c << shift;
  }
  if (seen > 127) return wide(text, state, before);
  if (length !== blocks) hash ^= scramble(tail);
  return finish(hash, before + length);
}

/** Where the hash of a longer text stands once this one, filled up with zero bytes to whole blocks, has gone in. */
export interface Absorbed {
  /** A signed 32-bit number. */
  readonly state: number;
  /** Bytes, the filling included. */
  readonly before: number;
}

/** Takes in the beginning of a text, seed 0. */
export function absorb(text: string): Absorbed {
  const { hash, block, bytes } = takeIn(text, 0);
  if ((bytes & 3) === 0) return { state: hash, before: bytes };
  return { state: mixBlock(hash, block), before: (bytes | 3) + 1 };
}

/** For texts with characters outside ASCII. */
function wide(text: string, state: number, before: number): number {
  const { hash, block, bytes } = takeIn(text, state);
  return finish((bytes & 3) === 0 ? hash : hash ^ scramble(block), before + bytes);
}

/** The state behind the whole blocks of a text, and the bytes of the block that was begun. */
function takeIn(text: string, state: number): { hash: number; block: number; bytes: number } {
  let hash = state | 0;
  let block = 0;
  let bytes = 0;
  const push = (byte: number) => {
    block |= byte << ((bytes & 3) * 8);
    bytes++;
    if ((bytes & 3) === 0) {
      hash = mixBlock(hash, block);
      block = 0;
    }
  };
  for (let i = 0; i < text.length; i++) {
    const c = text.codePointAt(i)!;
    if (c > 0xffff) i++;
    pushPoint(c >= 0xd800 && c <= 0xdfff ? 0xfffd : c, push);
  }
  return { hash, block, bytes };
}

/** The UTF-8 bytes of a code point. */
function pushPoint(point: number, push: (byte: number) => void): void {
  if (point < 0x80) return push(point);
  if (point < 0x800) push(0xc0 | (point >> 6));
  else {
    if (point < 0x10000) push(0xe0 | (point >> 12));
    else {
      push(0xf0 | (point >> 18));
      push(0x80 | ((point >> 12) & 63));
    }
    push(0x80 | ((point >> 6) & 63));
  }
  push(0x80 | (point & 63));
}

function scramble(block: number): number {
  const k = Math.imul(block, 0xcc9e2d51);
  return Math.imul((k << 15) | (k >>> 17), 0x1b873593);
}

function mixBlock(hash: number, block: number): number {
  const h = hash ^ scramble(block);
  return (Math.imul((h << 13) | (h >>> 19), 5) + 0xe6546b64) | 0;
}

function finish(hash: number, length: number): number {
  let h = hash ^ length;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}
