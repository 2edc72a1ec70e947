import { useEffect, useState } from "preact/hooks";
import type { Change, PositionsLine, PositionsRequest } from "../../desk/index.ts";
import type { PositionCounts } from "../../insight/index.ts";
import { instantOf } from "../asking/clock.ts";
import { question } from "../asking/question-now.ts";
import { postLines } from "../service/ask.ts";
import { session } from "../service/session.ts";

interface ShareSliderProps {
  readonly flag: string;
  readonly rule: number;
  readonly environment: string | undefined;
  /** As it stands: `25%`, `20% to 45%`, or the steps of one that rises. */
  readonly share: string;
  /** What else is being changed of the rule: it is counted as it would be. */
  readonly change: Change | undefined;
}

/** A share as a slider and as a text; it says how many people of a file each place would take. */
export function ShareSlider({ flag, rule, environment, share, change }: ShareSliderProps) {
  const [text, setText] = useState(share);
  const single = /^(\d+(?:\.\d+)?)%$/.exec(text.trim());
  const written = single ? Number(single[1]) : undefined;
  const percent = written !== undefined && written <= 100 ? written : undefined;
  const positions = usePositions({ flag, rule, environment, change });
  return (
    <div class="share-slider">
      <label>
        Share{" "}
        <input
          type="text"
          name="share"
          value={text}
          size={Math.max(8, text.length)}
          autocomplete="off"
          onInput={(event) => setText(event.currentTarget.value)}
        />
      </label>
      <input
        type="range"
        min={0}
        max={100}
        step={0.1}
        value={percent ?? 0}
        aria-label="Share in percent"
        aria-valuetext={percent === undefined ? text : `${percent}%${takes(percent, positions)}`}
        onInput={(event) => setText(`${Number(event.currentTarget.value)}%`)}
      />
      <p class="taken">
        {percent !== undefined && takes(percent, positions)}
        {written !== undefined && percent === undefined && `A share is at most 100%, and this is ${written}%.`}
        {written === undefined && text.trim() !== "" && "The slider sets a single share."}
      </p>
    </div>
  );
}

/** What is still being typed is not counted, in milliseconds. */
const pause = 200;

function takes(percent: number, counted: Counted): string {
  if (typeof counted === "string") return ` ${counted}`;
  if (!counted) return "";
  const { asked, below, file } = counted;
  const place = Math.round(percent * 10);
  const taken = place === 0 ? 0 : (below[place - 1] ?? 0);
  return ` It takes ${taken.toLocaleString("en")} of the ${asked.toLocaleString("en")} people in ${file} whom this rule asks.`;
}

type Counted = (PositionCounts & { readonly file: string }) | string | undefined;

/** Where the people of the file lie whom the rule asks; of the first file, where several are known. */
function usePositions({ flag, rule, environment, change }: Omit<ShareSliderProps, "share">): Counted {
  const [counted, setCounted] = useState<Counted>(undefined);
  const { asked } = question.value;
  const { by, whom } = asked;
  const file = whom.kind === "people" ? whom.file : session.value?.people[0];
  useEffect(() => {
    if (file === undefined) return;
    let isOver = false;
    const at = Math.floor(instantOf(asked) / 60_000) * 60_000;
    const request: PositionsRequest = {
      by,
      flag,
      rule,
      file,
      at,
      ...(environment === undefined ? {} : { environment }),
      ...(change === undefined ? {} : { change }),
    };
    const count = () =>
      postLines<PositionsLine>("positions", request, (line) => {
        if (isOver) return;
        if ("progress" in line) setCounted(`Counting ${file} … ${Math.round(line.progress * 100)}%`);
        else if ("failed" in line) setCounted(`${file} could not be counted: ${line.failed}`);
        else setCounted({ ...line.positions, file });
      }).catch((error: Error) => !isOver && setCounted(error.message));
    const timer = setTimeout(count, change === undefined ? 0 : pause);
    return () => {
      isOver = true;
      clearTimeout(timer);
    };
  }, [by, flag, rule, environment, file, JSON.stringify(change)]);
  return counted;
}
