import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll } from "vitest";

const folders: string[] = [];
afterAll(() => Promise.all(folders.map((folder) => rm(folder, { recursive: true, force: true }))));

/** An empty folder for all tests of a file; gone when they are over. */
export async function scratch(): Promise<string> {
  const folder = await mkdtemp(join(tmpdir(), "iudex-test-"));
  folders.push(folder);
  return folder;
}
