import { alikeIn, type CensusResult } from "../../insight/index.ts";
import { shownPercents } from "../../values/index.ts";
import type { Circumstances } from "../asking/question.ts";
import { valueWords } from "../definitions/answers.ts";
import { countOf } from "../definitions/counts.ts";
import type { ReadSet } from "../definitions/read-set.ts";

interface CountedBarsProps {
  readonly flag: string;
  readonly file: string;
  readonly asked: Circumstances;
  readonly set: ReadSet;
}

/** How the people of a file fall on a flag, as bars; while it is counted, how far that has come. */
export function CountedBars({ flag, file, asked, set }: CountedBarsProps) {
  const count = countOf(flag, file, asked, set).value;
  if (count.state === "failed")
    return (
      <p class="fault">
        {file} was not counted: {count.reason}
      </p>
    );
  if (count.state === "counting")
    return (
      <p class="answer">
        <progress value={count.part} max={1} aria-label={`Counting ${file}`} /> counting {file} …
      </p>
    );
  const byName = new Map(count.counts.map((counted) => [counted.environment ?? "", counted]));
  const groups = alikeIn(
    [...byName.keys()],
    (environment) => byName.get(environment ?? "")!,
    ({ values }) => JSON.stringify(values),
  );
  return (
    <>
      {groups.map(({ environments, answer }) => (
        <Bars key={environments?.join() ?? ""} counted={answer} environments={environments} />
      ))}
    </>
  );
}

interface BarsProps {
  readonly counted: CensusResult;
  readonly environments: readonly string[] | undefined;
}

function Bars({ counted, environments }: BarsProps) {
  const percents = shownPercents(
    counted.values.map(({ count }) => count),
    1,
  );
  return (
    <table class="bars">
      {environments && <caption>In {environments.join(", ")}</caption>}
      <tbody>
        {counted.values.map((each, i) => (
          <tr key={valueWords(each)}>
            <th scope="row" title={valueWords(each)}>
              {valueWords(each)}
            </th>
            <td class="bar">
              <span class={`fill fill-${Math.min(i, 4)}`} style={{ width: `${each.percent}%` }} />
            </td>
            <td class="number">
              {each.count.toLocaleString("en")} <i>{percents[i]}</i>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
