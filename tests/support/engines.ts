import { onTestFinished } from "vitest";
import { missingEngines } from "../../scripts/engines/programs.mjs";
import * as servers from "../../scripts/engines/servers.mjs";

export type { Engine } from "../../scripts/engines/servers.mjs";

/** Whether an engine is here; tests of one that is not are named as skipped. */
export function has(engine: "nginx" | "redis" | "postgres"): boolean {
  return !missingEngines().includes(engine);
}

/** Gone when the test is over. */
function untilFinished<T extends servers.Engine>(engine: T): T {
  onTestFinished(() => engine.end());
  return engine;
}

export const startRedis = async () => untilFinished(await servers.startRedis());
export const startPostgres = async () => untilFinished(await servers.startPostgres());
export const startNginx = async (folder: string) => untilFinished(await servers.startNginx(folder));
