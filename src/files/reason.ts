const reasons: Readonly<Record<string, string>> = {
  EACCES: "permission denied",
  EPERM: "permission denied",
  ENOENT: "it does not exist",
  ENOTDIR: "a part of its path is not a folder",
  EISDIR: "it is a folder",
  ELOOP: "its links go round in a circle",
  EMFILE: "too many files are open",
  ENOSPC: "the disk is full",
  EROFS: "the disk is read-only",
  EIO: "the disk reports an error",
};

/** Why something failed, in words for the middle of a sentence. */
export function reasonOf(error: unknown): string {
  const code = (error as { code?: string }).code ?? "";
  return reasons[code] ?? (error instanceof Error ? error.message : String(error));
}
