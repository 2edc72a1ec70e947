import type { Context } from "../flags/index.ts";

/** How requests are pinned to flags. */
export interface GateOptions<Request> {
  /** What is known of the person behind a request; called once a request. It may take its time. */
  readonly context: (request: Request) => Context | Promise<Context>;
  /** Where a signed pass is looked for; by default the header and the cookie `iudex-pass`. False takes none. */
  readonly pass?: { readonly header?: string; readonly cookie?: string } | false | undefined;
  /** The request headers that the context is made from, told to caches in `Vary`; `Cookie` and `Authorization` by default. */
  readonly madeFrom?: readonly string[] | undefined;
  /** True lets shared caches keep answers as the program says; false, the default, marks answers that ask flags `private`.
   * Answers to a pass are never kept. */
  readonly sharedCaches?: boolean | undefined;
  /** Where a client is, for the limit of streams from one address. By default the address of a `node:http` connection,
   * unless that is a proxy's: one of a private network. Behind a proxy say what it tells of the client. */
  readonly address?: ((request: Request) => string | undefined) | undefined;
  /** Whether the server has been closed and waits for its streams to end. Of a `node:http` server this is known by itself;
   * a request in the style of the Fetch standard knows nothing of its server.
   *
   * @example isStopping: () => !server.listening
   */
  readonly isStopping?: (() => boolean) | undefined;
  /** Tells in a header of each answer which flags were asked and what they gave; for debugging. Off by default. */
  readonly verdictHeader?: boolean | undefined;
  /** Hears of whatever fails here: a context that cannot be gathered, flags that cannot be judged, what a handler behind
   * the gate throws where no framework takes it. */
  readonly onFailure?: ((error: unknown, request: Request) => void) | undefined;
}

/** What a closed address answers. */
export interface Closed<Handler> {
  /** The status; 404 by default, as if there were nothing. A handler's answer has it too, where it sets none of its own. */
  readonly status?: number | undefined;
  /** A handler of your own, which answers instead. */
  readonly handler?: Handler | undefined;
}

/** The old and the new way of answering. */
export interface Diversion<Handler> {
  /** Where it holds. */
  readonly to: Handler;
  /** Where it does not, and where nothing could be judged. */
  readonly otherwise: Handler;
}

/**
 * A way of answering for each variant of a flag, or for each text or number that it gives; `otherwise` for all else, and
 * where nothing could be judged.
 */
export interface Ways<Handler> {
  readonly [variant: string]: Handler;
}

export function isDiversion<Handler>(ways: Diversion<Handler> | Ways<Handler>): ways is Diversion<Handler> {
  return Object.hasOwn(ways, "to");
}

/** The flags that may be shown to a page. */
export interface PageOptions<Name extends string> {
  /** Only these are ever sent. */
  readonly only: readonly Name[];
}

export interface StreamOptions<Name extends string> extends PageOptions<Name> {
  /** How often everybody is judged again, since windows open by themselves, and a line is sent to keep the way open;
   * milliseconds, 15,000 by default. The client of `iudex/page` takes 45,000 without a word for a broken stream. */
  readonly every?: number | undefined;
  /** Bytes that may wait for a client before it is dropped; 65,536 by default. */
  readonly maxWaiting?: number | undefined;
  /** How often the context of a listener is gathered and its pass verified again; milliseconds, 60,000 by default. */
  readonly again?: number | undefined;
  /** Listeners at once; more are told to come back later. 10,000 by default. */
  readonly maxListeners?: number | undefined;
  /** Listeners from one address; 100 by default. See `address` of the gate's options. */
  readonly maxFromOneAddress?: number | undefined;
}
