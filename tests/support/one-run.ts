import { chmod, mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";

/** Temporary files of a run stand in one folder and go with it, those of killed processes too. */
export async function setup(): Promise<() => Promise<void>> {
  const home = await mkdtemp(join(tmpdir(), "iudex-run-"));
  // PostgreSQL runs as somebody else, and must reach what is its own.
  await chmod(home, 0o755);
  process.env.TMPDIR = home;
  return () => rm(home, { recursive: true, force: true, maxRetries: 5 });
}
