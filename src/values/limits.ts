/** Every bound that reading and judging keep, in one place. Sizes are in bytes unless the name says otherwise. */
export const limits = Object.freeze({
  /** The format version this code reads. */
  formatVersion: 1,
  fileBytes: 5 * 1024 * 1024,
  listBytes: 64 * 1024 * 1024,
  files: 1_000,
  /** All definition files of a folder together. */
  folderBytes: 64 * 1024 * 1024,
  /** All list files of a folder together. */
  allListBytes: 512 * 1024 * 1024,
  /** Values, lists and objects in one file. */
  nodes: 750_000,
  /** The longest that the reading of one large file or list may take, in milliseconds. */
  readingTime: 30_000,
  /** The memory for reading a large file or list, in MB. */
  readingMemory: 1_024,
  /** Nesting of a file (its top object is 1) and of round brackets in a condition. */
  depth: 32,
  /** References to flags and cohorts that follow each other: the longest chain that is judged. */
  references: 100,
  aliasExpansions: 1_000,
  conditionCharacters: 4_096,
  nameCharacters: 100,
});
