/** What came of a run. */
export interface Ran {
  /** Service-hours that have passed. */
  readonly hours: number;
  /** How often what a service gives was held against what it should give. */
  readonly checks: number;
  /** Lists or files that were put. */
  readonly lists: number;
}
