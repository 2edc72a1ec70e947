import { useEffect, useState } from "preact/hooks";
import type { Change, PositionsAt, PositionsLine, PositionsRequest } from "../../desk/index.ts";
import type { PositionCounts } from "../../insight/index.ts";
import { rangeAt, type Share } from "../../model/index.ts";
import { instantOf } from "../asking/clock.ts";
import { question } from "../asking/question-now.ts";
import { currentSet } from "../definitions/versions.ts";
import { showMoment, zoneOf } from "../parts/times.ts";
import { postLines } from "../service/ask.ts";
import { session } from "../service/session.ts";
import type { RulePlace } from "./places.tsx";

type Steps = Share["steps"];

/** How many people a rule takes, at some instants, as it is and as it would be; why that cannot be told. */
export type Counted = readonly PositionsAt[] | string | undefined;

/** What is still being typed is not counted, in milliseconds. */
const pause = 150;

export function peopleFile(): string | undefined {
  const { whom } = question.value.asked;
  return whom.kind === "people" ? whom.file : session.value?.people[0];
}

/** Asks the desk for it, by the rule as it would be with these changes. */
export function useReach(
  { flag, rule, environment }: RulePlace,
  instants: readonly number[],
  changes: readonly Change[],
): Counted {
  const [counted, setCounted] = useState<Counted>(undefined);
  const file = peopleFile();
  const { by } = question.value.asked;
  const request: PositionsRequest | undefined =
    file === undefined
      ? undefined
      : {
          by,
          flag: flag.name,
          rule: rule.number,
          file,
          instants,
          changes: changes.map((change) => ({ change })),
          ...(environment === undefined ? {} : { environment }),
        };
  const key = JSON.stringify(request);
  useEffect(() => {
    if (!request) return;
    let isOver = false;
    const see = (line: PositionsLine) => {
      if (isOver) return;
      if ("progress" in line) setCounted(`Counting ${file} … ${Math.round(line.progress * 100)}%`);
      else setCounted("failed" in line ? `${file} could not be counted: ${line.failed}` : line.positions);
    };
    const count = () =>
      postLines<PositionsLine>("positions", request, see).catch((error: Error) => !isOver && setCounted(error.message));
    const timer = setTimeout(count, changes.length === 0 ? 0 : pause);
    return () => {
      isOver = true;
      clearTimeout(timer);
    };
  }, [key]);
  return counted;
}

/** Now, to the minute, and the instants to come at which one of these shares takes a step. */
export function instantsOf(...shares: readonly (Steps | undefined)[]): readonly number[] {
  const now = Math.floor(instantOf(question.value.asked) / 60_000) * 60_000;
  const coming = shares.flatMap((steps) => steps?.map(({ from }) => from).filter((from) => from > now) ?? []);
  return [...new Set([now, ...coming.sort((a, b) => a - b)])].slice(0, 5);
}

/** How many a share takes of those whom a rule asks. */
export function takenBy({ asked, below }: PositionCounts, steps: Steps | undefined, at: number): number {
  if (!steps) return asked;
  const { low, high } = rangeAt(steps, at);
  const upTo = (percent: number) => (percent <= 0 ? 0 : (below[Math.round(percent * 10) - 1] ?? 0));
  return upTo(high) - upTo(low);
}

interface ReachProps {
  readonly counted: Counted;
  readonly before: Steps | undefined;
  readonly after: Steps | undefined;
}

/** The reach of a rule as it would be, now and at each coming date, and what that is more or less. */
export function Reach({ counted, before, after }: ReachProps) {
  const file = peopleFile();
  if (file === undefined) return <p>Without a file of people nothing is counted.</p>;
  if (typeof counted === "string" || !counted) return <p class="taken">{counted ?? `Counting ${file} …`}</p>;
  const zone = zoneOf(currentSet()?.definitions);
  const most = Math.max(1, ...counted.map((each) => Math.max(each.before.asked, each.after.asked)));
  return (
    <div class="reach">
      <p>
        It takes, of {most.toLocaleString("en")} people in {file} whom it asks:
      </p>
      {counted.map(({ at, ...each }, i) => {
        const [was, is] = [takenBy(each.before, before, at), takenBy(each.after, after, at)];
        return (
          <p key={at} class="taken">
            <span>{i === 0 ? "now" : showMoment(at, zone)}</span> <b>{is.toLocaleString("en")}</b>{" "}
            {differenceWords(was, is)}
            <span class="reach-bar" aria-hidden="true">
              <span class="was" style={{ width: `${(Math.min(was, is) / most) * 100}%` }} />
              <span class={is > was ? "more" : "less"} style={{ width: `${(Math.abs(is - was) / most) * 100}%` }} />
            </span>
          </p>
        );
      })}
    </div>
  );
}

function differenceWords(was: number, is: number): string {
  if (was === is) return "as before";
  return `${Math.abs(is - was).toLocaleString("en")} ${is > was ? "more" : "fewer"}`;
}
