import { mkdir, mkdtemp, readFile, rm, stat, utimes, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { expect, onTestFinished } from "vitest";

export const projectRoot = fileURLToPath(new URL("../..", import.meta.url));
export const demoFolder = join(projectRoot, "examples/ternhaven/flags");
export const demoPeople = join(projectRoot, "examples/ternhaven/people");

/** A folder with the given files, gone when the test is over; concurrent tests hand their own context in. */
export async function folderWith(
  files: Readonly<Record<string, string>>,
  test: { onTestFinished(work: () => Promise<void>): void } = { onTestFinished },
): Promise<string> {
  const home = await mkdtemp(join(tmpdir(), "iudex-test-"));
  test.onTestFinished(() => rm(home, { recursive: true, force: true }));
  const folder = join(home, "flags");
  await mkdir(folder);
  for (const [file, text] of Object.entries(files)) await put(folder, file, text);
  return folder;
}

export async function put(folder: string, file: string, text: string): Promise<void> {
  await mkdir(dirname(join(folder, file)), { recursive: true });
  await writeFile(join(folder, file), text);
}

/** Changes what stands in a file, and fails where it does not stand there. */
export async function replace(file: string, from: string | RegExp, to: string): Promise<void> {
  const text = await readFile(file, "utf8");
  const changed = text.replace(from, to);
  expect(changed).not.toBe(text);
  await writeFile(file, changed);
}

/**
 * Puts into a directory what was being written aside: a moment ago, by a process that is no more, and what cannot be
 * removed as a file is.
 */
export async function halfWritten(directory: string): Promise<{ readonly young: string; readonly old: string }> {
  const [young, old] = [".young.tmp", ".old.tmp"];
  for (const name of [young, old]) await writeFile(join(directory, name), "half a cop");
  // By the clock of the disk.
  const anHourAgo = (await stat(join(directory, young))).mtimeMs / 1_000 - 3_600;
  await mkdir(join(directory, ".stays.tmp"));
  for (const name of [old, ".stays.tmp"]) await utimes(join(directory, name), anHourAgo, anHourAgo);
  return { young, old };
}
