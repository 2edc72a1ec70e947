/** What of a pool of pg is used. */
export interface PostgresPool {
  /** A client of the pool. */
  connect(): Promise<PostgresClient>;
  /** Hears of lost connections. */
  on(event: "error", listener: () => void): unknown;
}

/** What of a client of pg is used. */
export interface PostgresClient {
  /** Sends one query. */
  query(text: string, values?: unknown[]): Promise<{ readonly rows: readonly unknown[] }>;
  /** Hears of "notification" and "error". */
  on(event: string, listener: (...words: unknown[]) => void): unknown;
  /** Hears no more. */
  removeListener(event: string, listener: (...words: unknown[]) => void): unknown;
  /** Gives it back to the pool, or ends its connection. */
  release(destroy?: boolean): void;
  /** Keeps no process alive. */
  unref?(): unknown;
}
