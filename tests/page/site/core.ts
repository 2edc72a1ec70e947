// What judges in the page, and in Node to hold it against.
import { FlagSet, openDefinitions, readDefinitions } from "iudex/core";

export interface Asked {
  readonly data: object;
  readonly people: readonly object[];
  readonly instants: readonly number[];
}

/** Every flag for every person at every instant, as JSON. */
export async function verdicts({ data, people, instants }: Asked): Promise<string[]> {
  const { definitions } = await openDefinitions([{ file: "a.json", data }]);
  const flags = new FlagSet(definitions!);
  const names = [...definitions!.flags.keys()];
  return people.flatMap((person) =>
    instants.flatMap((at) => names.map((name) => JSON.stringify(flags.verdict(name, person, { at })))),
  );
}

/** Whether a set is opened, or why not. */
export async function opened(data: object): Promise<string> {
  return openDefinitions([{ file: "a.json", data }]).then(({ definitions }) => told(definitions), String);
}

/** The same without waiting for what it needs. */
export function read(data: object): string {
  try {
    return told(readDefinitions([{ file: "a.json", data }]).definitions);
  } catch (error) {
    return String(error);
  }
}

function told(definitions: object | undefined): string {
  return definitions ? "a set" : "no set";
}

Object.assign(globalThis, { judging: { verdicts, opened, read } });
