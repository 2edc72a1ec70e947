import { readFileSync } from "node:fs";
import { join } from "node:path";
import files from "@fastify/static";
import type { FastifyInstance } from "fastify";
import type { Services } from "./booking-routes.js";
import { pageFlags } from "./page-catalogue.js";

/** The built page, with the values of its flags in it, so that it is right at the first paint. */
export async function addPage(app: FastifyInstance, { gate }: Services, folder: string): Promise<void> {
  const [before, after] = readFileSync(join(folder, "index.html"), "utf8").split("<!-- flags -->");
  await app.register(files, { root: folder, index: false });
  app.get("/", { preHandler: gate.pin }, (request, reply) => {
    void reply.type("text/html; charset=utf-8");
    return `${before}${gate.pageScript(request, { only: pageFlags })}${after}`;
  });
}
