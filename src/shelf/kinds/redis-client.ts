/** What of node-redis is used; any client with these methods will do. */
export interface RedisClient {
  /** Sends one command as it stands. */
  sendCommand(words: readonly (string | Buffer)[], options?: object): Promise<unknown>;
  /** Another connection with the same settings, not connected yet. */
  duplicate(): RedisSubscriber;
  /** Hears of lost connections. */
  on(event: "error", listener: () => void): unknown;
}

/** A connection of its own for hearing of news. */
export interface RedisSubscriber {
  /** Hears of "ready" and "error". */
  on(event: string, listener: (...words: unknown[]) => void): unknown;
  /** Connects, and again by itself when the connection is lost. */
  connect(): Promise<unknown>;
  /** Hears what is told on a channel. */
  subscribe(channel: string, listener: (message: string) => void): Promise<unknown>;
  /** Hears no more of a channel. */
  unsubscribe(channel: string): Promise<unknown>;
  /** Sends one command as it stands. */
  sendCommand(words: readonly (string | Buffer)[], options?: object): Promise<unknown>;
  /** Ends the connection at once; `disconnect` before node-redis 5. */
  destroy?(): unknown;
  /** Ends the connection at once. */
  disconnect?(): unknown;
  /** Keeps no process alive. */
  unref?(): unknown;
}
