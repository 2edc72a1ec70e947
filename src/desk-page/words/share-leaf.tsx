import { useState } from "preact/hooks";
import { readInstant } from "../../calendar/index.ts";
import type { Share } from "../../model/index.ts";
import { showPercent } from "../../values/index.ts";
import { now } from "../asking/clock.ts";
import { currentSet } from "../definitions/versions.ts";
import { fieldOf, zoneOf } from "../parts/times.ts";
import { Leaf, type LeafAct, type Written } from "./leaf.tsx";
import { changeOf, placed, type RulePlace, Where } from "./places.tsx";
import { instantsOf, Reach, takenBy, useReach } from "./reach.tsx";

/** Which step of a share is meant: one that is there, or one behind them all. */
export type StepOf = number | "new";

interface ShareLeafProps {
  readonly place: RulePlace;
  readonly step: StepOf;
  /** Whether the word is the instant from which the step holds. */
  readonly isDate?: boolean;
}

type Step = Share["steps"][number];
interface Meant {
  readonly percent: string;
  readonly from: string;
}

/** A share, or a step of one that rises: how much, from when, and whom that takes now and at each date to come. */
export function ShareLeaf({ place, step, isDate = false }: ShareLeafProps) {
  const { rule } = place;
  const share = rule.division?.share;
  const zone = share?.zone ?? zoneOf(currentSet()?.definitions);
  const standing = step === "new" ? undefined : share?.steps[step];
  const isDated = step === "new" ? share !== undefined : share?.rises === true;
  const first: Meant = {
    percent: String(standing?.high ?? share?.steps.at(-1)?.high ?? 10),
    from: isDated ? fieldOf(standing?.from ?? Math.max(now.peek(), share!.steps.at(-1)!.from) + 86_400_000, zone) : "",
  };
  const [meant, setMeant] = useState(first);
  const after = stepsWith(share, step, meant, zone);
  const counted = useReach(place, instantsOf(share?.steps, after), []);
  const percent = Number(meant.percent);
  const before = standing?.high;
  const lost =
    typeof counted === "object" && after
      ? counted.map(({ at, ...each }) => takenBy(each.before, share?.steps, at) - takenBy(each.after, after, at))
      : [];
  const fewer = Math.max(0, ...lost);
  const write = (form: FormData): Written => {
    const text = shareText(
      place,
      step,
      { percent: String(form.get("percent")), from: String(form.get("from") ?? "") },
      zone,
    );
    if (typeof text !== "string") return text;
    return placed(form, place, text === textOf(place) ? undefined : changeOf(place, { share: text }), true);
  };
  return (
    <Leaf
      place={`${place.at}/${isDate ? "from" : "share"}-${step}`}
      title={titleOf(step, isDated)}
      keep={Number.isFinite(percent) ? `Keep ${percent}%` : "Keep it"}
      change={write}
      aside={<Reach counted={counted} before={share?.steps} after={after ?? share?.steps} />}
      acts={actsOf(place, step)}
    >
      <p class="share-fields">
        {isDate && <DateField from={meant.from} zone={zone} set={(from) => setMeant({ ...meant, from })} />}
        <label>
          <input
            class="large"
            type="text"
            inputMode="decimal"
            name="percent"
            size={5}
            autocomplete="off"
            aria-label="Share in percent"
            value={meant.percent}
            onInput={(event) => setMeant({ ...meant, percent: event.currentTarget.value })}
          />{" "}
          %
        </label>
        {isDated && !isDate && <DateField from={meant.from} zone={zone} set={(from) => setMeant({ ...meant, from })} />}
      </p>
      <input
        type="range"
        min={0}
        max={100}
        step={0.1}
        value={Number.isFinite(percent) ? percent : 0}
        aria-label="Share, by sliding"
        aria-valuetext={`${meant.percent}%`}
        onInput={(event) => setMeant({ ...meant, percent: String(Number(event.currentTarget.value)) })}
      />
      {before !== undefined && <p class="hint">before: {showPercent(before)}</p>}
      {before !== undefined && percent < before && (
        <p class="fault">
          It falls: people between {percent}% and {showPercent(before)} lose the value
          {fewer > 0 && `, ${fewer.toLocaleString("en")} of the file`}.
        </p>
      )}
      <Where place={place} isAdjusted rises={isDated} />
    </Leaf>
  );
}

function titleOf(step: StepOf, isDated: boolean): string {
  if (step === "new") return isDated ? "Then, from a later date" : "Only a share of them";
  return isDated ? "A step of the rising share" : "The share";
}

function DateField({ from, zone, set }: { readonly from: string; readonly zone: string; set(from: string): void }) {
  return (
    <label>
      from <input type="datetime-local" name="from" value={from} onInput={(event) => set(event.currentTarget.value)} />{" "}
      <i>{zone} time</i>
    </label>
  );
}

/** What stands in the file for a share, as a change writes it. */
function textOf({ rule: { source } }: RulePlace): string {
  if (source.share === undefined) return "";
  return typeof source.share === "string" ? source.share : source.share.rising.join(", ");
}

/** The share with one step as it is meant; the others stay as they are written. */
function shareText(
  place: RulePlace,
  step: StepOf,
  { percent, from }: Meant,
  zone: string,
): string | { message: string; help: string } {
  const { source, division } = place.rule;
  const part = Number(percent.replace(/%$/, ""));
  if (percent.trim() === "" || !(part >= 0 && part <= 100))
    return { message: `“${percent}” is not a share.`, help: "write a number from 0 to 100" };
  const share = source.share;
  const standing = step === "new" ? undefined : division?.share?.steps[step];
  if (from === "") {
    // The other end of a range stays.
    return standing && standing.low > 0 ? `${showPercent(standing.low)} to ${part}%` : `${part}%`;
  }
  if (typeof readInstant(from, zone) !== "number")
    return {
      message: `${from.replace("T", " ")} does not exist in ${zone}, or comes twice.`,
      help: "write another minute",
    };
  const steps =
    typeof share === "object"
      ? [...share.rising]
      : [`${showPercent(division!.share!.steps[0]!.high)} from ${fieldOf(now.peek(), zone)}`];
  const isAsItWas = standing && fieldOf(standing.from, zone) === from;
  const written = `${part}% from ${isAsItWas ? steps[step as number]!.split(" from ")[1] : from}`;
  if (step === "new") steps.push(written);
  else steps[step] = written;
  return steps.join(", ");
}

/** The steps as they would be; undefined while what is written cannot be read. */
function stepsWith(
  share: Share | undefined,
  step: StepOf,
  { percent, from }: Meant,
  zone: string,
): readonly Step[] | undefined {
  const high = Number(percent);
  if (percent.trim() === "" || !(high >= 0 && high <= 100)) return undefined;
  const instant = from === "" ? Number.NEGATIVE_INFINITY : readInstant(from, zone);
  if (typeof instant !== "number") return undefined;
  const steps = [...(share?.steps ?? [])];
  const standing = step === "new" ? undefined : steps[step];
  const made = { low: standing?.low ?? 0, high, from: instant };
  if (step === "new") steps.push(made);
  else steps[step] = made;
  return steps.sort((a, b) => a.from - b.from);
}

/** A share that is taken out, or one step of it. */
function actsOf(place: RulePlace, step: StepOf): readonly LeafAct[] {
  const { share } = place.rule.source;
  if (step === "new" || share === undefined) return [];
  const left = typeof share === "string" ? [] : share.rising.filter((_, i) => i !== step);
  const change = changeOf(place, { share: left.length === 0 ? "none" : left.join(", ") });
  const says = typeof share === "string" ? "Take the share out" : "Take this step out";
  return [{ says, does: (form) => placed(form, place, change, true) }];
}
