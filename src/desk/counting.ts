import type { Context } from "hono";
import { stream } from "hono/streaming";
import { type Change, EditSession, workOut } from "../edit/index.ts";
import { compareSets } from "../insight/index.ts";
import type { Definitions } from "../model/index.ts";
import { countPositions, type PeopleOptions, reachOfChange, takeCensusOfFlags } from "../study/index.ts";
import { type DeskEnv, problemOf } from "./answering.ts";
import { DeskFault } from "./desk-fault.ts";
import type { DeskFolder } from "./desk-folder.ts";
import type { CensusLine, PositionsLine, ReachLine } from "./protocol.ts";
import { readChange } from "./read-change.ts";
import { type Fields, fieldsIn } from "./requests.ts";
import type { WorkedDraft } from "./worked-draft.ts";

/** How often the progress of a count is told, in milliseconds. */
const toldEvery = 100;

type Progress = NonNullable<PeopleOptions["progress"]>;

/** Answers `POST api/census`: counts on the server, and tells how far it has come. */
export async function census(c: Context<DeskEnv>, desk: DeskFolder): Promise<Response> {
  const asked = await fieldsIn(c);
  const { definitions } = await desk.usable(asked.text("by"), c.get("visitor"));
  const flags = asked.texts("flags").filter((name) => definitions.flags.has(name));
  const environments = environmentsIn(asked, definitions);
  const people = desk.people.path(asked.text("file"));
  const at = asked.number("at");
  return toldInLines<CensusLine>(c, desk, async (progress) => {
    const { counts, read } = await takeCensusOfFlags(definitions, { flags, environments, people, at, progress });
    return { counts, contexts: read.contexts };
  });
}

/** Answers `POST api/draft/reach`: whom a draft reaches, in each of some environments. */
export async function reach(c: Context<DeskEnv>, desk: DeskFolder, { base, work }: WorkedDraft): Promise<Response> {
  const asked = await fieldsIn(c);
  const people = desk.people.path(asked.text("file"));
  const at = asked.number("at");
  const [before, after] = [base.definitions, work.loaded.definitions];
  if (!before || !after) throw new DeskFault(409, "The definitions cannot be used as they are.", "see what is wrong");
  const environments = environmentsIn(asked, after);
  const changes = compareSets(before, after);
  return toldInLines<ReachLine>(c, desk, async (progress) => {
    const reached = [];
    for (const environment of environments)
      reached.push({
        environment,
        ...(await reachOfChange(before, after, changes, { people, environment, at, progress })),
      });
    return { reach: reached };
  });
}

/** Answers `POST api/positions`: how many people any share of a rule would take, by the rule as it is and as it would be. */
export async function positions(c: Context<DeskEnv>, desk: DeskFolder): Promise<Response> {
  const asked = await fieldsIn(c);
  const standing = await desk.usable(asked.text("by"), c.get("visitor"));
  const changes = asked.each("changes", ({ data }) => readChange(data("change")));
  const instants = asked.numbers("instants").slice(0, maxInstants);
  const request = {
    flag: asked.text("flag"),
    rule: asked.number("rule"),
    environment: asked.optional("environment"),
    people: desk.people.path(asked.text("file")),
  };
  return toldInLines<PositionsLine>(c, desk, async (progress) => {
    const after = await definitionsWith(standing, changes);
    const isSame = after === standing.definitions;
    const counted = await countPositions(
      instants.flatMap((at) =>
        (isSame ? [after] : [standing.definitions, after]).map((definitions) => ({ definitions, at })),
      ),
      { ...request, progress },
    );
    const each = isSame ? counted.flatMap((counts) => [counts, counts]) : counted;
    return { positions: instants.map((at, i) => ({ at, before: each[2 * i]!, after: each[2 * i + 1]! })) };
  });
}

/** So many instants are counted at once. */
const maxInstants = 6;

/** The definitions as they would be. @throws {DeskFault} for a change that cannot be made */
async function definitionsWith(standing: Standing, changes: readonly Change[]): Promise<Definitions> {
  if (changes.length === 0) return standing.definitions;
  const { work, worked } = await workOut(changes, EditSession.of(standing));
  const fault = worked.find((each) => each.fault)?.fault;
  if (fault) throw new DeskFault(409, fault.message, fault.help);
  return work.loaded.definitions!;
}

type Standing = Awaited<ReturnType<DeskFolder["usable"]>>;

/** The environments that are asked for; the one without a name where the definitions declare none. */
function environmentsIn(asked: Fields, { environments }: Definitions): readonly (string | undefined)[] {
  const named = asked.texts("environments");
  const strange = named.find((name) => !environments.has(name));
  if (strange !== undefined) throw new DeskFault(400, `There is no environment “${strange}” in these definitions.`);
  return named.length > 0 ? named : [undefined];
}

/** Tells how far a reading has come, line by line, and at last what came of it. */
function toldInLines<Line>(
  c: Context<DeskEnv>,
  desk: DeskFolder,
  work: (progress: Progress) => Promise<Line>,
): Response {
  c.header("content-type", "application/x-ndjson");
  const turn = desk.turns.ask(c.get("visitor").name);
  return stream(c, async (out) => {
    const left = new AbortController();
    out.onAbort(() => left.abort());
    const tell = (line: Line | { progress: number } | { failed: string }) => out.write(`${JSON.stringify(line)}\n`);
    let told = performance.now();
    try {
      const progress: Progress = ({ bytes, totalBytes }) => {
        // Nobody waits any more: the reading ends here.
        if (out.aborted) throw new DeskFault(409, "The page has left.");
        if (performance.now() - told < toldEvery) return;
        told = performance.now();
        void tell({ progress: totalBytes === 0 ? 1 : Math.min(1, bytes / totalBytes) });
      };
      await tell(await turn.run(left.signal, () => work(progress)));
    } catch (error) {
      if (!out.aborted) await tell({ failed: problemOf(error)?.title ?? "The file could not be counted." });
    }
  });
}
