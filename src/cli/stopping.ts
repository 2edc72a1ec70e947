import type { StopsPlan, StopsPut, StopsRequest } from "../edit/index.ts";
import { printable } from "../values/index.ts";
import { renderReach } from "./changes.ts";
import { allowed, type EnvironmentReach, reachOf } from "./edit.ts";
import { instantOf } from "./instant.ts";
import { type ExitCode, explanationPaint, json, type Output } from "./output.ts";
import { nothingPut, type PublishingOptions, renderMeaning, signingOf, wouldBe } from "./publishing.ts";

/** Works a list of stops out, shows what it changes and whom that reaches, asks, and puts it on the shelf. */
export async function putStopsOnShelf(
  called: string,
  options: PublishingOptions,
  output: Output,
  put: (request: StopsRequest) => Promise<StopsPut>,
): Promise<ExitCode> {
  const at = instantOf(undefined);
  let reach: readonly EnvironmentReach[] | undefined;
  const request: StopsRequest = {
    ...(await signingOf(options)),
    confirm: async (plan) => {
      reach = await reachOf(plan, options, at, output);
      if (!options.json) output.out(shown(plan, reach, options, called, output));
      return options.trial || allowed(options, output, "Put this on the shelf?", "written");
    },
  };
  try {
    const { plan, stops } = await put(request);
    if (options.json) output.out(json(answer({ plan, stops }, reach, options)));
    else if (stops) output.out(`${ended(stops, request, options)}\n`);
    else output.out("Nothing was written.\n");
    return stops ? 0 : 1;
  } catch (error) {
    return nothingPut(error, options, output);
  }
}

function ended(
  { number, set }: { readonly number: number; readonly set: string },
  { key }: StopsRequest,
  { trial }: PublishingOptions,
): string {
  const what = `list ${number} of the stops of ${set}`;
  return trial ? wouldBe(what) : `Published as ${what}${key ? "" : ", unsigned"}.`;
}

function shown(
  plan: StopsPlan,
  reach: readonly EnvironmentReach[] = [],
  options: PublishingOptions,
  called: string,
  output: Output,
): string {
  const paint = explanationPaint(output.colour);
  const head = paint.faint(`list ${plan.number} of the stops of ${plan.set} for ${called}`);
  const meaning = plan.after
    ? renderMeaning(plan.changes, output)
    : "What this means is not shown: the edition that stands there cannot be read.";
  const reached = reach.map((each) =>
    renderReach(each, { file: options.people!, environment: each.environment }, output),
  );
  return [printable(head), meaning, ...reached, ...plan.remarks.map(printable), ""].join("\n\n");
}

function answer(
  { plan: { set, number, changes }, stops }: StopsPut,
  reach: readonly EnvironmentReach[] | undefined,
  { trial }: PublishingOptions,
) {
  return { set, number, changes, ...(reach ? { reach } : {}), published: stops !== undefined && !trial };
}
