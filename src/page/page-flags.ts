import type { NameOf, ValueOf } from "../catalogue/index.ts";

/** What a service tells a page: the values of the flags that it lists, for whoever looks at the page. */
export interface Told {
  /** The revision of the definitions by which they were judged. */
  readonly revision: string;
  /** The same for as long as the values are. */
  readonly id?: string | undefined;
  readonly values: Readonly<Record<string, unknown>>;
  /** For whom they are, as the service tells persons apart. */
  readonly for?: string | undefined;
}

/** The values of a moment. It is the same object until something changes. */
export interface PageSnapshot<C = undefined> {
  /** The revision of the definitions; undefined as long as nothing was told, and the fallbacks hold. */
  readonly revision: string | undefined;
  readonly values: { readonly [Name in NameOf<C>]: ValueOf<C, Name> };
}

/** Something that did not go as it should. The last answers hold, or the fallbacks where there are none. */
export interface PageProblem {
  /** Where: at the first values, the stream of changes, the values that are asked for, a value, a report. */
  readonly at: "first" | "changes" | "values" | "value" | "seen";
  readonly message: string;
}

/** Where a page's flags come from. Addresses are as `fetch` takes them. */
export interface FollowPageOptions<C = undefined> {
  /** Types and fallbacks; what is told of other flags, or with other types, is not taken. */
  readonly catalogue?: C | undefined;
  /** The values of the first paint: a selector of the element that the service wrote, or what it would hold. */
  readonly first?: string | Told | undefined;
  /** The stream of changes. Without it, and without `values`, the first values stay: for rendering on a server. */
  readonly changes?: string | undefined;
  /** The values as JSON, asked for where streams do not come through. */
  readonly values?: string | undefined;
  /** Where it is reported which flags the page has asked for. */
  readonly seen?: string | undefined;
  /** Headers of every request but the last report, which a browser sends when the page has gone. */
  readonly headers?: (() => Readonly<Record<string, string>>) | undefined;
  /**
   * Shares one connection among the tabs that give this name, as far as the service says that their values are for the same
   * person.
   */
  readonly shared?: string | undefined;
  /** Hears of each kind of problem once, and again after it has been well in between. */
  readonly onProblem?: ((problem: PageProblem) => void) | undefined;
}

/** The flags of a page. Its functions can be handed around on their own. */
export interface PageFlags<C = undefined> {
  /**
   * The value that holds now: told by the service, or the catalogue's fallback. The flag counts as seen.
   *
   * @example if (flags.value("storm-mode")) showStorm();
   */
  value<Name extends NameOf<C>>(name: Name): ValueOf<C, Name>;
  /** All values that hold now; none of them counts as seen. The same object until one of them changes. */
  readonly values: PageSnapshot<C>["values"];
  /** The revision of the definitions by which they were judged; undefined while the fallbacks hold. */
  readonly revision: string | undefined;
  /** Values and revision of this moment; the same object until something changes. */
  snapshot(): PageSnapshot<C>;
  /** The values of the first paint, by which a page that a server has rendered is taken over. */
  firstSnapshot(): PageSnapshot<C>;
  /**
   * Calls after every change; a function is called once, however often it was given.
   *
   * @returns a function that ends it
   */
  subscribe(listener: () => void): () => void;
  /**
   * Begins anew, for another person: what was told is forgotten, and the fallbacks hold until the service answers.
   *
   * @param hint query parameters of every request, for a service that knows the person by them
   * @returns when the first answer has come, or the flags were closed
   * @example await flags.as({ party: "4" });
   */
  as(hint?: Readonly<Record<string, string>>): Promise<void>;
  /** Ends the connection; the last values stay. */
  close(): void;
}
