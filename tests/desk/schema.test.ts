import { readFile } from "node:fs/promises";
import { join } from "node:path";
import { Ajv2020 } from "ajv/dist/2020.js";
import { expect, it } from "vitest";
import { startDesk } from "../support/desk.ts";
import { projectRoot } from "../support/folders.ts";
import { demoRepository } from "../support/repository.ts";

const schema = JSON.parse(await readFile(join(projectRoot, "desk.schema.json"), "utf8")) as { $defs: object };
const ajv = new Ajv2020({ strict: false, allErrors: true });
ajv.addSchema(schema, "desk");

function faultsOf(definition: string, data: unknown): unknown[] {
  const validate = ajv.getSchema(`desk#/$defs/${definition}`);
  if (!validate) throw new Error(`desk.schema.json has no ${definition}`);
  validate(data);
  return validate.errors ?? [];
}

it("describes what is asked and what is answered", async () => {
  const { folder } = await demoRepository();
  const { as } = await startDesk({ folder });
  const ylva = as("Ylva");
  const at = Date.parse("2026-12-05T12:00Z");
  const change = { change: "flag", flag: "zone-fares", rule: "2", share: "40%" };
  const seen: [string, unknown][] = [
    ["ProblemAnswer", (await ylva.get("api/set?by=nothing")).body],
    ["SessionAnswer", (await ylva.get("api/session")).body],
    ["SetAnswer", (await ylva.get("api/set")).body],
    ["ProblemsAnswer", (await ylva.get("api/problems")).body],
    ["HistoryAnswer", (await ylva.get("api/history")).body],
  ];
  const post = async (path: string, asks: string, body: object, ...answers: string[]) => {
    const answer = await ylva.post(`api/${path}`, body);
    expect([path, answer.status]).toEqual([path, 200]);
    seen.push([asks, body]);
    for (const each of [answer.body].flat()) seen.push([answers[0]!, each]);
    return answer.body;
  };
  await post(
    "listed",
    "ListedRequest",
    { by: "files", asked: [{ cohort: "testers", id: "A-1001" }], where: true },
    "ListedAnswer",
  );
  await post("people", "PeopleRequest", { file: "passengers.csv", find: "A-17" }, "PeopleAnswer");
  await post("ids", "IdsRequest", { by: "files", cohort: "testers", text: "A-1" }, "IdsAnswer");
  const census = {
    by: "files",
    file: "passengers.csv",
    at,
    flags: ["seat-map", "zone-fares"],
    environments: ["production"],
  };
  await post("census", "CensusRequest", census, "CensusLine");
  const positions = {
    by: "files",
    flag: "zone-fares",
    rule: 2,
    environment: "production",
    file: "passengers.csv",
    instants: [at],
    changes: [],
  };
  await post("positions", "PositionsRequest", positions, "PositionsLine");
  await post("draft/add", "AddRequest", { change }, "DraftAnswer");
  await post("draft/reach", "ReachRequest", { file: "passengers.csv", at, environments: ["production"] }, "ReachLine");
  const review = (await ylva.get("api/draft/review")).body;
  seen.push(["ReviewAnswer", review], ["DraftAnswer", (await ylva.get("api/draft")).body]);
  const { number, version } = review;
  await post("draft/write", "WriteRequest", { number, version, note: "x" }, "ChangedAnswer");
  await post("draft/drop", "DropRequest", { id: 1 }, "DraftAnswer");
  await post("suspend", "StopRequest", { flag: "seat-map", note: "x" }, "ChangedAnswer");
  await post("reinstate", "StopRequest", { flag: "seat-map" }, "ChangedAnswer");
  for (const [definition, data] of seen) expect([definition, faultsOf(definition, data)]).toEqual([definition, []]);
});

it("refuses what is none", () => {
  expect(faultsOf("SessionAnswer", {})).not.toEqual([]);
  expect(faultsOf("AddRequest", { change: { change: "nothing" } })).not.toEqual([]);
  expect(faultsOf("CensusLine", { progress: "half" })).not.toEqual([]);
});
