/** How long a watcher waits, and how often it looks, in milliseconds. */
export interface WatchTimes {
  /** How long things must be quiet before they are read, in milliseconds. */
  readonly quiet: number;
  /** The longest wait while they are not, in milliseconds. */
  readonly longest: number;
  /**
   * How often all files are looked at where a change has been missed, as on file systems that send no notices, in milliseconds;
   * before that a fifth as often. `suspended.yaml` is looked at each time.
   */
  readonly poll: number;
}

export const defaultTimes: WatchTimes = { quiet: 200, longest: 5_000, poll: 1_000 };
