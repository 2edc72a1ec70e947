import { useEffect, useLayoutEffect, useRef, useState } from "preact/hooks";
import { type FlagDefinition, flagIn } from "../../model/index.ts";
import { instantOf } from "../asking/clock.ts";
import { type Filter, filters, type Question, type Shown } from "../asking/question.ts";
import { question } from "../asking/question-now.ts";
import { differs, overdueSince, stopOf } from "../definitions/answers.ts";
import { show } from "../definitions/asking.ts";
import { canChangeHere } from "../definitions/draft.ts";
import { indexOf, outlookOf } from "../definitions/flag-index.ts";
import type { ReadSet } from "../definitions/read-set.ts";
import { setFor } from "../definitions/versions.ts";
import { useWindowRows } from "../parts/use-window-rows.ts";
import { FlagRow } from "./flag-row.tsx";
import { NewFlag } from "./new-flag.tsx";

type FlagsShown = Extract<Shown, { view: "flags" }>;

const filterWords: Readonly<Record<Filter, string>> = {
  all: "every flag",
  differing: "those that differ",
  changing: "those that will change by themselves",
  overdue: "those whose review is overdue",
  stopped: "those that are stopped",
};

/** Every flag with the answer to the question; what is stopped first, then what differs from the second question. */
export function AllFlags({ set, shown }: { readonly set: ReadSet; readonly shown: FlagsShown }) {
  const search = useRef<HTMLInputElement>(null);
  const flags = rowsFor(set, shown, question.value);
  const total = indexOf(set.definitions!).flags.length;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const isTyping = (event.target as Element).matches("input, select, textarea");
      if (event.key !== "/" || isTyping) return;
      event.preventDefault();
      search.current?.focus();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);
  const put = (change: Partial<FlagsShown>) => show({ ...shown, ...change });
  return (
    <section aria-label="All flags">
      <search>
        <form class="finding" onSubmit={(event) => event.preventDefault()}>
          <label>
            Find{" "}
            <input
              ref={search}
              type="search"
              value={shown.find}
              placeholder="a name, an owner, a word of a condition"
              onInput={(event) => put({ find: event.currentTarget.value })}
              onKeyDown={(event) => {
                if (event.key !== "ArrowDown") return;
                event.preventDefault();
                document.querySelector<HTMLElement>(".rows a.name")?.focus();
              }}
            />
          </label>
          <label>
            among{" "}
            <select value={shown.only} onChange={(event) => put({ only: event.currentTarget.value as Filter })}>
              {filters.map((filter) => (
                <option key={filter} value={filter}>
                  {filterWords[filter]}
                </option>
              ))}
            </select>
          </label>
          <span class="counted" role="status">
            {flags.length === total
              ? `${total.toLocaleString("en")} flags`
              : `${flags.length.toLocaleString("en")} of ${total.toLocaleString("en")} flags`}
          </span>
        </form>
        {canChangeHere() && (
          <div class="doings">
            <NewFlag set={set} />
          </div>
        )}
      </search>
      {flags.length === 0 ? (
        <p class="whole">
          No flag fits.{" "}
          <button type="button" class="quiet" onClick={() => put({ find: "", only: "all" })}>
            Show every flag
          </button>
        </p>
      ) : (
        <Rows flags={flags} set={set} />
      )}
    </section>
  );
}

/** What was worked out last; nothing of it changes while one scrolls. */
let last: { readonly key: readonly unknown[]; readonly flags: readonly FlagDefinition[] } | undefined;

function rowsFor(set: ReadSet, { find, only }: FlagsShown, { asked, against }: Question): readonly FlagDefinition[] {
  const other = against && setFor(against);
  const minute = Math.floor(instantOf(asked) / 60_000);
  const key = [set, find, only, asked, against, other, minute];
  if (last?.key.every((each, i) => each === key[i])) return last.flags;
  const found = indexOf(set.definitions!).find(find);
  const definitions = set.definitions!;
  const isStopped = ({ name }: FlagDefinition) => stopOf(name, asked, definitions) !== undefined;
  const different = new Set<string>();
  if (against && other)
    for (const { name } of found) if (differs(name, asked, against, [set, other])) different.add(name);
  const flags = found.filter((flag) => {
    if (only === "differing")
      return against ? different.has(flag.name) : variesByEnvironment(flag, [...definitions.environments.keys()]);
    if (only === "changing") return outlookOf(definitions, instantOf(asked)).byFlag.has(flag.name);
    if (only === "overdue") return overdueSince(flag, instantOf(asked)) !== undefined;
    return only === "all" || isStopped(flag);
  });
  const rank = (flag: FlagDefinition) => (isStopped(flag) ? 0 : different.has(flag.name) ? 1 : 2);
  const sorted = definitions.suspensions.size > 0 || against ? flags.toSorted((a, b) => rank(a) - rank(b)) : flags;
  last = { key, flags: sorted };
  return sorted;
}

/** Whether a flag says anything else of one environment than of another. */
function variesByEnvironment(flag: FlagDefinition, environments: readonly string[]): boolean {
  if (flag.source.environments === undefined) return false;
  const said = environments.map((name) => {
    const { provided, rules, otherwise } = flagIn(flag, name);
    return JSON.stringify([provided, rules.map(({ source }) => source), otherwise]);
  });
  return new Set(said).size > 1;
}

function Rows({ flags, set }: { readonly flags: readonly FlagDefinition[]; readonly set: ReadSet }) {
  const list = useRef<HTMLUListElement>(null);
  const [above, setAbove] = useState(0);
  useLayoutEffect(() => {
    const place = () => setAbove(list.current ? list.current.getBoundingClientRect().top + window.scrollY : 0);
    place();
    const seen = new ResizeObserver(place);
    seen.observe(document.body);
    return () => seen.disconnect();
  }, []);
  const rows = useWindowRows(flags.length, above, (index) => flags[index]?.name ?? String(index));
  const move = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const at = Number((event.target as Element).closest("[data-index]")?.getAttribute("data-index"));
    if (step === undefined || Number.isNaN(at) || !(event.target instanceof HTMLAnchorElement)) return;
    event.preventDefault();
    const next = Math.min(flags.length - 1, Math.max(0, at + step));
    rows.scrollTo(next);
    requestAnimationFrame(() => list.current?.querySelector<HTMLElement>(`[data-index="${next}"] a.name`)?.focus());
  };
  return (
    <ul class="rows" ref={list} style={{ height: `${rows.height}px` }} onKeyDown={move}>
      {rows.items.map(({ index, key, start }) => (
        <li
          key={key}
          aria-setsize={flags.length}
          aria-posinset={index + 1}
          data-index={index}
          ref={rows.measure}
          class="place"
          style={{ transform: `translateY(${start - above}px)` }}
        >
          <FlagRow flag={flags[index]!} set={set} />
        </li>
      ))}
    </ul>
  );
}
