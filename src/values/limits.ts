/** Every bound that reading and judging keep, in one place. Sizes are in bytes unless the name says otherwise. */
export const limits = Object.freeze({
  /** The format version this code reads. */
  formatVersion: 1,
  fileBytes: 5 * 1024 * 1024,
  listBytes: 64 * 1024 * 1024,
  files: 1_000,
  /** Nesting of a file (its top object is 1) and of round brackets in a condition. */
  depth: 32,
  aliasExpansions: 1_000,
  conditionCharacters: 4_096,
  nameCharacters: 100,
});
