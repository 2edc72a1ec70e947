import { type ChildProcess, fork } from "node:child_process";
import { once } from "node:events";
import { mkdir, readdir, rm, utimes } from "node:fs/promises";
import { join } from "node:path";
import { followFlags } from "iudex";
import { folderShelf, publishFolder } from "iudex/fleet";
import { expect, onTestFinished, test, vi } from "vitest";
import { projectRoot } from "../support/folders.ts";
import { copiedDemo, freight, holdFreight, scratchFolder, set } from "../support/shelves.ts";
import { next } from "../support/waiting.ts";

const by = "Crew";

/** A shelf with one edition, and a folder in which temporary files are put. */
async function stand() {
  const home = await scratchFolder();
  const [directory, temporary] = [join(home, "shelf"), join(home, "temporary")];
  await mkdir(temporary);
  const shelf = folderShelf(directory, { set });
  const folder = await copiedDemo();
  await publishFolder(shelf, { folder, by });
  return { directory, temporary, shelf, folder };
}

async function followElsewhere(directory: string, temporary: string): Promise<ChildProcess> {
  const follower = fork(join(projectRoot, "tests/support/follower.mjs"), [directory, set], {
    env: { ...process.env, TMPDIR: temporary },
  });
  onTestFinished(() => void follower.kill("SIGKILL"));
  await once(follower, "message");
  return follower;
}

test("what a killed process left behind is removed by the next one, and what a living one needs is not", async () => {
  const { directory, temporary } = await stand();
  const living = await followElsewhere(directory, temporary);
  const [needed] = await readdir(temporary);
  const killed = await followElsewhere(directory, temporary);
  const ended = once(killed, "exit");
  killed.kill("SIGKILL");
  await ended;
  const left = (await readdir(temporary)).filter((name) => name !== needed);
  expect(left).toHaveLength(1);
  await followElsewhere(directory, temporary);
  const now = await readdir(temporary);
  expect(now).toHaveLength(2);
  expect(now).toContain(needed);
  expect(now).not.toContain(left[0]);
  expect(living.exitCode).toBe(null);
});

test("what an earlier process of this one's number left behind is removed, and what this one needs is not", async () => {
  const { temporary, shelf } = await stand();
  vi.stubEnv("TMPDIR", temporary);
  onTestFinished(() => void vi.unstubAllEnvs());
  const follow = async () => {
    const flags = await followFlags(shelf, { environment: "production" });
    onTestFinished(() => flags.close());
  };
  await follow();
  const [needed] = await readdir(temporary);
  // As in a container that was started anew.
  const left = needed!.replace(/\w+$/, "before");
  await mkdir(join(temporary, left));
  await utimes(join(temporary, left), 1_700_000_000, 1_700_000_000);
  await follow();
  const now = await readdir(temporary);
  expect(now).toHaveLength(2);
  expect(now).toContain(needed);
  expect(now).not.toContain(left);
});

test("editions come in although the machine has cleared its temporary files", async () => {
  const { temporary, shelf, folder } = await stand();
  vi.stubEnv("TMPDIR", temporary);
  onTestFinished(() => void vi.unstubAllEnvs());
  const flags = await followFlags(shelf, { environment: "production" });
  onTestFinished(() => flags.close());
  for (const minutes of [125, 130]) {
    const [own] = await readdir(temporary);
    await rm(join(temporary, own!), { recursive: true });
    await holdFreight(folder, minutes);
    const change = next(flags, "change");
    await publishFolder(shelf, { folder, by });
    await change;
    expect(flags.value("hold-minutes", freight)).toBe(minutes);
    expect(await readdir(temporary)).toHaveLength(1);
  }
  await flags.close();
  expect(await readdir(temporary)).toEqual([]);
});
