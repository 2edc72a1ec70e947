import { mkdtemp } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";

/** An empty folder for all tests of a file; gone when the run is over. */
export function scratch(): Promise<string> {
  return mkdtemp(join(tmpdir(), "iudex-test-"));
}
