import { followPage, type PageSnapshot } from "iudex/page";
import { useRef, useSyncExternalStore } from "preact/compat";
import { pageCatalogue, pageVersion } from "../../server/page-catalogue.ts";

type Shown = PageSnapshot<typeof pageCatalogue>;

/** The values of this page's flags, with the types of the catalogue. */
export type PageValues = Shown["values"];

/** A saved definition file changes the open page. The tabs of one person share a stream. */
export const flags = followPage({
  catalogue: pageCatalogue,
  first: "#flags",
  changes: `/api/flags/changes?app=${pageVersion}`,
  values: `/api/flags?app=${pageVersion}`,
  seen: `/api/flags/seen?app=${pageVersion}`,
  shared: "ternhaven",
});

/** What holds now. While the service is asked for somebody else's flags, what is shown stays. */
export function useShown(): Shown {
  const now = useSyncExternalStore(flags.subscribe, flags.snapshot);
  const last = useRef(now);
  if (now.revision) last.current = now;
  return last.current;
}
