/** Some file systems count time in steps of two seconds. */
export const coarse = 2_000;

/** So many paths are remembered; a folder holds fewer files. */
const maxRemembered = 4_096;

/**
 * Knows which stamps can be relied on. A file that changes twice within one step of the clock of its file system may keep
 * its stamp, so a stamp counts when it was found twice, so far apart. The clock of this process plays no part: the disk may
 * be another machine's.
 */
export class Settled {
  readonly #found = new Map<string, { readonly stamp: string; readonly since: number }>();

  /** True if the file was found with this stamp so long ago that a change since would show. */
  has(path: string, stamp: string): boolean {
    const now = performance.now();
    const found = this.#found.get(path);
    if (found?.stamp === stamp) return now - found.since >= coarse;
    this.#found.delete(path);
    this.#found.set(path, { stamp, since: now });
    if (this.#found.size > maxRemembered) this.#found.delete([...this.#found.keys()][0]!);
    return false;
  }
}
