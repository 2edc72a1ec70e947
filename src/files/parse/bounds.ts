import { limits } from "../../values/index.ts";
import type { FileFault } from "./parsed-file.ts";

/** What is said of a file in any language that nests too deeply. */
export function tooDeep(offset: number): FileFault {
  return {
    code: "too-deep",
    range: { start: offset, end: offset + 1 },
    message: "The file is nested too deeply here.",
    expected: `at most ${limits.depth} levels`,
  };
}

/** What is said of a file that would take too much memory. */
export function tooManyNodes(offset: number): FileFault {
  return {
    code: "too-many-nodes",
    range: { start: offset, end: offset + 1 },
    message: "The file holds more values than can be read.",
    expected: `at most ${limits.nodes}`,
    help: "split it, or move ids to a list file",
  };
}
