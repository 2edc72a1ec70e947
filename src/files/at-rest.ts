import { setTimeout } from "node:timers/promises";
import { Problems } from "../problems/index.ts";
import type { FolderContent } from "./content.ts";
import type { Disk, DiskFiles } from "./from/disk.ts";
import { movedIn, type ReadOptions, readSteadily } from "./read.ts";

/**
 * Files that were changed so lately may still be being written; milliseconds. Some file systems count in steps of two seconds. A
 * disk whose clock is behind this machine's makes its files look older, and is not waited for.
 */
const young = 2_500;

/** What has not changed for so long is at rest, in milliseconds. */
const rest = 200;

/** The longest that a first opening waits for it, in milliseconds. */
const longest = 5_000;

/** Reads a folder of which no earlier state is known that could stay: what is still being written is waited for. */
export async function readAtRest(disk: Disk, options: ReadOptions = {}): Promise<FolderContent> {
  const until = performance.now() + longest;
  let { before } = options;
  for (;;) {
    let found: DiskFiles | undefined;
    const look = async () => {
      found = await disk.look();
      return found;
    };
    const content = await readSteadily(look, { ...options, before });
    if (Date.now() - found!.newest > young) return content;
    await setTimeout(rest);
    const [moved] = movedIn(content, await disk.look());
    if (moved === undefined) return content;
    if (performance.now() > until) return beingWritten(content, moved);
    before = content;
  }
}

function beingWritten(content: FolderContent, file: string): FolderContent {
  const problems = new Problems();
  problems.add(content.problems);
  problems.report(
    "file-unreadable",
    { file, path: [] },
    { message: `“${file}” is still being written, after ${longest / 1_000} s.`, expected: "a file at rest" },
  );
  return { ...content, problems: problems.all };
}
