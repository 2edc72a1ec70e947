import { murmur3 } from "./murmur3.ts";

const range = 2 ** 32;

/**
 * Where ids fall between 0 and 1 under one salt. The salt's own hash is the seed, worked out once.
 */
export class Bucket {
  readonly salt: string;
  private readonly seed: number;

  constructor(salt: string) {
    this.salt = salt;
    // As a signed number: the hash takes either, and an object holds this one without another.
    this.seed = murmur3(salt, 0) | 0;
  }

  /** A number in [0, 1), evenly spread and the same for ever. */
  position(id: string): number {
    return murmur3(id, this.seed) / range;
  }
}
