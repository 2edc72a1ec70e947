import { type Signal, signal } from "@preact/signals";
import type { CensusLine } from "../../desk/index.ts";
import type { CensusResult } from "../../insight/index.ts";
import { instantOf } from "../asking/clock.ts";
import type { Circumstances } from "../asking/question.ts";
import { postLines } from "../service/ask.ts";
import { environmentsOf } from "./answers.ts";
import type { ReadSet } from "./read-set.ts";

/** How a file of people falls on a flag, while it is counted and afterwards. */
export type Count =
  | { readonly state: "counting"; readonly part: number }
  | { readonly state: "counted"; readonly counts: readonly CensusResult[] }
  | { readonly state: "failed"; readonly reason: string };

interface Wanted {
  readonly names: Map<string, Signal<Count>>;
  readonly request: object;
}

const counts = new Map<string, Signal<Count>>();
const waiting = new Map<string, Wanted>();
const maxKept = 2_000;

/** How the people of a file fall on a flag. What is asked for in one moment is counted in one reading of the file. */
export function countOf(flag: string, file: string, asked: Circumstances, set: ReadSet): Signal<Count> {
  // A file takes a while, so that “now” is the minute.
  const at = Math.floor(instantOf(asked) / 60_000) * 60_000;
  const { by } = asked;
  const environments = environmentsOf(asked, set.definitions!);
  const request = { by, file, at, environments, version: set.version };
  const key = JSON.stringify([request, flag]);
  let found = counts.get(key);
  if (found) return found;
  found = signal<Count>({ state: "counting", part: 0 });
  counts.set(key, found);
  for (const [oldest] of counts) if (counts.size > maxKept) counts.delete(oldest);
  gather(JSON.stringify(request), request, flag, found);
  return found;
}

function gather(key: string, request: object, flag: string, into: Signal<Count>): void {
  const wanted = waiting.get(key);
  if (wanted) return void wanted.names.set(flag, into);
  waiting.set(key, { request, names: new Map([[flag, into]]) });
  setTimeout(() => {
    const gathered = waiting.get(key)!;
    waiting.delete(key);
    void fetchCounts(gathered);
  }, 60);
}

async function fetchCounts({ request, names }: Wanted): Promise<void> {
  const tell = (count: Count) => {
    for (const into of names.values()) into.value = count;
  };
  let isDone = false;
  try {
    await postLines<CensusLine>("census", { ...request, flags: [...names.keys()] }, (line) => {
      if ("progress" in line) tell({ state: "counting", part: line.progress });
      else if ("failed" in line) throw new Error(line.failed);
      else {
        isDone = true;
        for (const [name, into] of names)
          into.value = { state: "counted", counts: line.counts.filter(({ flag }) => flag === name) };
      }
    });
    if (!isDone) throw new Error("The counting was cut off.");
  } catch (error) {
    tell({ state: "failed", reason: (error as Error).message });
  }
}
