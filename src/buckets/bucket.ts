import { absorb, murmur3 } from "./murmur3.ts";

/** What a position is for. Positions for one purpose say nothing about those for another. */
export type Purpose = "share" | "split" | "cohort";

const range = 2 ** 32;

/**
 * Where ids fall between 0 and 1 for one purpose and under one salt: the hash of `purpose:salt`, filled up to whole
 * blocks, and the id behind it, seed 0. What stands before the id is taken in once.
 *
 * @example new Bucket("share", "zone-fares").position("A-17") // 0.2022…
 */
export class Bucket {
  private readonly state: number;
  private readonly before: number;

  constructor(purpose: Purpose, salt: string) {
    const { state, before } = absorb(`${purpose}:${salt}`);
    this.state = state;
    this.before = before;
  }

  /** An unsigned 32-bit number, evenly spread and the same for ever. */
  hash(id: string): number {
    return murmur3(id, this.state, this.before);
  }

  /** The hash as a number in [0, 1). */
  position(id: string): number {
    return murmur3(id, this.state, this.before) / range;
  }
}
