import type { Command } from "commander";
import { reasonOf, writeAside } from "../../files/index.ts";
import { parseSplitPart } from "../../source/index.ts";
import {
  peopleNeeded,
  round,
  sumsQuery,
  versionsOf,
  type Weighing,
  type WeighRequest,
  weigh,
  weighingPicture,
} from "../../weigh/index.ts";
import { type Cli, envOption } from "../cli.ts";
import { openFolder, requireFlag, setFor } from "../folder.ts";
import { lengthOf } from "../instant.ts";
import { type ExitCode, json, type Output, UsageError } from "../output.ts";
import { rendered } from "../weighing/rendered.ts";
import { partOf, positive, requestOf, type WeighCommand } from "../weighing/request.ts";

export function addWeigh(command: Command, cli: Cli): void {
  command
    .option(...envOption)
    .option(
      "--verdicts <file>",
      "who got what: the log, or CSV or NDJSON with subject, flag, variant, at, rule, outside",
    )
    .option(
      "--outcomes <file>",
      "what came of it: CSV or NDJSON with subject, at, and value and measure where there are any",
    )
    .option("--sums <file>", "instead of both: what the query of --sql gave")
    .option("--columns <names>", "what columns are called in the files, such as subject=user_id,at=time")
    .option("--rule <name>", "the rule that made the groups; needed where several divide people")
    .option("--measure <name...>", "what is measured; crowns/booked is one amount by another; all if left out")
    .option("--better <name=direction...>", "which direction is better: booked=more, minutes=fewer")
    .option("--guard <name=margin...>", 'what must not get worse, by how much: "cancelled=0.5 more", "minutes=5% more"')
    .option("--cap <name=value...>", "the most that one person counts for")
    .option("--from <instant>", "only people whose first verdict came then or later")
    .option("--until <instant>", "only people whose first verdict came before")
    .option("--within <time>", "outcomes of so long after the first verdict, such as 7d")
    .option("--changed <instant...>", "when the parts changed, where no history tells it")
    .option("--tell <difference...>", "the difference that matters: 0.5 (points of a rate), or by measure, minutes=2")
    .option("--anyway", "compare although the scales are off")
    .option("--svg <file>", "draw it")
    .option("--sql <dialect>", "print a query that makes the sums where the rows are: postgres or ansi")
    .option("--plan", "how many people does it take? with --tell and --rate or --variance")
    .option("--rate <percent>", "with --plan: the rate as it is")
    .option("--variance <number>", "with --plan: the variance of the amount by person")
    .option("--split <parts>", 'with --plan: the parts of the groups, such as "1 a, 1 b"; halves if left out')
    .option("--share <percent>", "with --plan: the share that is let in")
    .option("--daily <people>", "with --plan: new people a day")
    .action(async (flag: string | undefined, options) => cli.finish(await weighed(flag, options, cli.output)));
}

async function weighed(flag: string | undefined, options: WeighCommand, output: Output): Promise<ExitCode> {
  if (options.plan) {
    if (flag === undefined) return plan(options, output);
    throw new UsageError(
      "A plan is made before there is anything to weigh.",
      "leave the flag out, and write --split or --share",
    );
  }
  if (flag === undefined) throw new UsageError("Which flag is weighed?", "write iudex weigh and its name");
  const opened = await openFolder(options, output);
  if (!opened) return 1;
  const { definitions } = opened;
  requireFlag(definitions, flag);
  const { environment } = setFor(definitions, options.env);
  const earlier = await versionsOf(options.flags, flag);
  const request: WeighRequest = { flag, environment, earlier, ...requestOf(options) };
  if (options.sql !== undefined) {
    if (options.sql !== "postgres" && options.sql !== "ansi")
      throw new UsageError(`“${options.sql}” is not a dialect.`, "write --sql postgres or --sql ansi");
    output.out(sumsQuery(definitions, request, options.sql));
    return 0;
  }
  const weighing = await weigh(definitions, request);
  if (options.svg !== undefined) await draw(options.svg, weighing);
  output.out(options.json ? json(weighing) : rendered(weighing, output));
  return weighing.scales.ok ? 0 : 1;
}

async function draw(file: string, weighing: Weighing): Promise<void> {
  try {
    await writeAside(file, weighingPicture(weighing), 0o666);
  } catch (error) {
    throw new UsageError(`“${file}” cannot be written: ${reasonOf(error)}.`, "name a file with --svg");
  }
}

/** How many people it takes, for one look that is decided beforehand and for any number of looks. */
function plan(options: WeighCommand, output: Output): ExitCode {
  const tell = positive(options.tell?.[0] ?? "", "--tell 0.5");
  const names = options.split?.split(",").map((part) => part.trim());
  const parts = partsOf(options, names);
  const variances = variancesOf(options, tell);
  const delta = options.rate === undefined ? tell : tell / 100;
  const family = parts.length - 1;
  // The pair that takes longest decides.
  const each = parts
    .slice(1)
    .map((part) => peopleNeeded({ parts: [parts[0]!, part], variances, tell: delta, a: 0.05 / family }));
  const oneLook = Math.ceil(Math.max(...each.map((needed) => needed.oneLook)));
  const anyLook = Math.ceil(Math.max(...each.map((needed) => needed.anyLook)));
  const daily = options.daily === undefined ? undefined : positive(options.daily, "--daily 1200");
  const within = options.within === undefined ? 0 : Math.ceil(lengthOf(options.within, "--within") / 86_400_000);
  const days = daily && { oneLook: Math.ceil(oneLook / daily) + within, anyLook: Math.ceil(anyLook / daily) + within };
  if (options.json) {
    output.out(json({ people: { oneLook, anyLook }, days: days ?? null }));
    return 0;
  }
  const unit = options.rate === undefined ? "" : " points";
  const time = (which: "oneLook" | "anyLook") => (days ? `, ${days[which].toLocaleString("en-US")} days` : "");
  output.out(
    `To tell ${tell}${unit} in four of five cases it takes\n` +
      `  ${round(oneLook)} people for one look that is decided beforehand${time("oneLook")}\n` +
      `  ${round(anyLook)} people for any number of looks${time("anyLook")}\n`,
  );
  return 0;
}

function partsOf({ share }: WeighCommand, names: readonly string[] | undefined): readonly number[] {
  if (share !== undefined) {
    const inside = partOf(share, "--share 10%");
    return [1 - inside, inside];
  }
  const weights = (names ?? ["1 a", "1 b"]).map((part) => parseSplitPart(part)?.parts ?? 0);
  if (weights.length < 2 || weights.some((weight) => weight <= 0))
    throw new UsageError(`“${names?.join(", ")}” is not a split.`, 'write --split "1 a, 1 b"');
  const total = weights.reduce((all, weight) => all + weight, 0);
  return weights.map((weight) => weight / total);
}

function variancesOf({ rate, variance }: WeighCommand, tell: number): readonly [number, number] {
  if (variance !== undefined) {
    const given = positive(variance, "--variance 120");
    return [given, given];
  }
  if (rate === undefined)
    throw new UsageError("How often does it happen now?", "write --rate 4%, or --variance for an amount");
  const before = partOf(rate, "--rate 4%");
  const after = before + tell / 100;
  if (after >= 1) throw new UsageError(`A rate of ${rate} cannot grow by ${tell} points.`, "write a smaller --tell");
  return [before * (1 - before), after * (1 - after)];
}
