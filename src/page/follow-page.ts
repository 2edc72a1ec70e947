import type { Catalogue, FlagValue } from "../catalogue/index.ts";
import { whenInView } from "./browser.ts";
import { type Line, stayInTouch, type Take } from "./connection.ts";
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
  const { snapshot, id, take, subscribe } = held(options.catalogue, note);
  const { saw, report } = seenReports(ask, note);
  let person = "";
  let stay: AbortController;
  let arrived = () => {};

  const follow = () => {
    stay = new AbortController();
    const { signal } = stay;
    const takeIt = (told: Told) => {
      take(told);
      arrived();
    };
    whenInView(false, report, signal);
    const tabs = shared && `${shared} ${changes} ${person}`;
    if (changes || values) inTouch({ ask, id, note }, tabs, takeIt, signal);
    else arrived();
  };
  const close = () => {
    report();
    stay.abort();
    arrived();
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
      take(undefined);
      return new Promise<void>((resolve) => {
        arrived = resolve;
        follow();
      });
    },
    close,
  } as PageFlags as unknown as PageFlags<C>;
}

/**
 * @param tabs the name under which all tabs share one connection, if they do
 * @param take is handed what is told until the signal
 */
function inTouch(line: Line, tabs: string | undefined, take: Take, signal: AbortSignal): void {
  const takeIt = (told: Told) => signal.aborted || take(told);
  const follow = (tell: typeof takeIt) => void stayInTouch(line, tell, signal);
  // Browsers keep locks from pages that anybody could have changed on their way.
  if (tabs && globalThis.navigator?.locks) shareAmongTabs(tabs, signal, takeIt, follow);
  else follow(takeIt);
}
