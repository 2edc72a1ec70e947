import { showInstant } from "../../core/calendar/instant.ts";
import { describeFlag } from "../../core/index.ts";
import { printable } from "../../core/printable.ts";
import { wrap } from "../../files/render.ts";
import { type FolderOptions, openFolder } from "../folder.ts";
import { count, type ExitCode, explanationPaint, json, type Output } from "../output.ts";
import { instantOf } from "./why.ts";

export interface ListOptions extends FolderOptions {
  readonly at?: string;
  readonly json?: boolean;
}

interface Line {
  /** The environments for which the sentence holds; all of them if undefined. */
  readonly environments: readonly string[] | undefined;
  readonly sentence: string;
}

interface Listed {
  readonly flag: string;
  readonly about: string | undefined;
  readonly owner: string | undefined;
  readonly says: readonly Line[];
}

/** Every flag in a sentence; where environments differ, a sentence each. */
export async function list(options: ListOptions, output: Output): Promise<ExitCode> {
  const opened = await openFolder(options, output);
  if (!opened) return 1;
  const { definitions } = opened;
  const at = instantOf(options.at);
  const environments = options.env === undefined ? [...definitions.environments.keys()] : [options.env];
  const listed = [...definitions.flags.values()]
    .sort((a, b) => (a.name < b.name ? -1 : 1))
    .map(
      ({ name, source }): Listed => ({
        flag: name,
        about: source.about,
        owner: source.owner,
        says: saysBy(environments, (environment) => describeFlag(definitions, name, environment, at)!),
      }),
    );
  if (options.json) output.out(json({ at: new Date(at).toISOString(), revision: definitions.revision, flags: listed }));
  else
    output.out(
      rendered(
        listed,
        output,
        `${count(listed.length, "flag")}, revision ${definitions.revision}, ${showInstant(at, undefined)}`,
      ),
    );
  return 0;
}

/** One sentence for all environments that share it. */
function saysBy(environments: readonly string[], say: (environment: string | undefined) => string): Line[] {
  if (environments.length === 0) return [{ environments: undefined, sentence: say(undefined) }];
  const bySentence = new Map<string, string[]>();
  for (const environment of environments) {
    const sentence = say(environment);
    bySentence.set(sentence, [...(bySentence.get(sentence) ?? []), environment]);
  }
  if (bySentence.size === 1) return [{ environments: undefined, sentence: [...bySentence.keys()][0]! }];
  return [...bySentence].map(([sentence, names]) => ({ environments: names, sentence }));
}

function rendered(listed: readonly Listed[], { colour }: Output, foot: string): string {
  const paint = explanationPaint(colour);
  const blocks = listed.map(({ flag, about, says }) => {
    const head = about === undefined ? paint.strong(flag) : `${paint.strong(flag)}  ${paint.faint(printable(about))}`;
    const lines = says.flatMap(({ environments, sentence }) => {
      const where = environments === undefined ? "" : `${environments.join(", ")}:`;
      const [first = "", ...rest] = wrap(`${where} ${sentence}`.trim(), "");
      return [`  ${first.replace(where, paint.open(where))}`, ...rest.map((line) => `    ${line}`)];
    });
    return [head, ...lines].join("\n");
  });
  return `${blocks.join("\n\n")}\n\n${paint.faint(foot)}\n`;
}
