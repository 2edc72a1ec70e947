import type { Catalogue, FlagValue } from "../catalogue/index.ts";
import { whenInView } from "./browser.ts";
import { stayInTouch, type Take } from "./connection.ts";
import { held } from "./held.ts";
import { notes } from "./notes.ts";
import type { FollowPageOptions, PageFlags, Told } from "./page-flags.ts";
import { asking } from "./requests.ts";
import { seenReports } from "./seen.ts";
import { shareAmongTabs } from "./tabs.ts";
import { firstTold } from "./told.ts";

/**
 * The flags of a page, as its service judges them: at the first paint, and whenever they change. While there is no
 * connection the last values hold; before the first, the catalogue's fallbacks.
 *
 * @example
 * const flags = followPage({ catalogue, first: "#flags", changes: "/api/flags/changes" });
 * flags.subscribe(() => showSeats(flags.value("seat-map")));
 */
export function followPage<C extends Catalogue | undefined = undefined>(
  options: FollowPageOptions<C> = {},
): PageFlags<C> {
  const { changes, values, shared } = options;
  const note = notes(options.onProblem);
  const ask = asking(options, () => person);
  const { snapshot, last, take: hold, subscribe } = held(options.catalogue, note);
  const { saw, report } = seenReports(ask, note);
  let person = "";
  let stay: AbortController;
  let arrived = () => {};

  const take = (told?: Told) => {
    hold(told);
    arrived();
  };
  const close = () => {
    report();
    stay.abort();
    arrived();
  };
  // Nobody's channel is joined before the service has said for whom the values are, and it is left when it says otherwise.
  const follow = () => {
    stay = new AbortController();
    const { signal } = stay;
    const whom = last()?.for;
    const begin = (tell: Take) => {
      const hear = (told: Told) => {
        if (signal.aborted) return;
        if (!shared || told.for === whom) return tell(told);
        close();
        take(told);
        follow();
      };
      void stayInTouch({ ask, last, note }, hear, signal);
    };
    whenInView(false, report, signal);
    if (!changes && !values) arrived();
    // Browsers keep locks from pages that anybody could have changed on their way.
    else if (shared && whom && globalThis.navigator?.locks)
      shareAmongTabs(shared + changes + whom, signal, last, take, begin);
    else begin(take);
  };

  take(firstTold(options.first, note));
  const first = snapshot();
  follow();
  return {
    value(name: string): FlagValue | undefined {
      const { revision, values } = snapshot();
      if (options.seen && revision) saw(`${revision} ${name}`, name);
      return values[name];
    },
    get values() {
      return snapshot().values;
    },
    get revision() {
      return snapshot().revision;
    },
    snapshot,
    firstSnapshot: () => first,
    subscribe,
    as(by: Readonly<Record<string, string>> = {}) {
      close();
      person = `${new URLSearchParams(by)}`;
      take();
      return new Promise<void>((resolve) => {
        arrived = resolve;
        follow();
      });
    },
    close,
  } as PageFlags as unknown as PageFlags<C>;
}
