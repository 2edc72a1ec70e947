import { execFile } from "node:child_process";
import { readFile, symlink, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { promisify } from "node:util";
import { expect, it } from "vitest";
import { folderWith, projectRoot } from "../support/folders.ts";

const run = promisify(execFile);

/** What the program around a snippet has. */
const around = `
import type { FastifyReply, FastifyRequest, FastifyInstance } from "fastify";
import type { Express } from "express";
import type { Flags } from "iudex";
import type { NodeGate } from "iudex/http";
import type { IncomingMessage } from "node:http";
type Handler = (request: FastifyRequest, reply: FastifyReply) => Promise<unknown>;
declare global {
  const flags: Flags;
  const app: FastifyInstance & Express;
  const gate: NodeGate;
  const server: import("node:http").Server;
  const request: FastifyRequest;
  const quoteByZone: () => void;
  const quoteByPortPair: () => void;
  const byZone: Handler;
  const byPortPair: Handler;
  const never: Handler;
  const hold: Handler;
  const stormy: Handler;
  const berths: Handler;
  const bookACrossing: () => Promise<void>;
  const show: (values: unknown) => void;
  const count: (flag: string, variant: string | undefined) => void;
  const contextOf: (request: unknown) => object;
  const accountOf: (request: Request | IncomingMessage | { raw: IncomingMessage }) => Promise<object>;
  const keys: { current(): readonly import("iudex").PassKey[] };
  const revokedPasses: () => Promise<readonly string[]>;
  const signingKey: import("iudex").PassKey;
  const checkInSchema: import("iudex").StandardSchemaV1<unknown, { lanes: number }>;
}
`;

/** Stand-ins for packages that a page names and that are none of ours. */
const strangers = `declare module "pino" { export function pino(): Record<"info" | "warn" | "error", (...words: unknown[]) => void>; }`;

it.each([
  "README.md",
  "docs/guide.md",
  "docs/running.md",
  "docs/testing.md",
  "docs/http.md",
  "docs/page.md",
  "docs/fleet.md",
  "docs/desk.md",
])("%s shows TypeScript that the type checker takes as it stands", async (page) => {
  const text = await readFile(join(projectRoot, page), "utf8");
  const snippets = [...text.matchAll(/```tsx?\n([\s\S]*?)```/g)].map(([, code]) => code!);
  expect(snippets.length).toBeGreaterThan(0);
  const files = Object.fromEntries(
    snippets.map((code, i) => [
      /^\/\/ (\S+\.tsx?)\n/.exec(code)?.[1] ?? `snippet-${i + 1}.ts`,
      `${code}\nexport {};\n`,
    ]),
  );
  const entry = (name: string) => [join(projectRoot, `dist/${name}.d.ts`)];
  const compilerOptions = {
    strict: true,
    noEmit: true,
    target: "es2023",
    lib: ["es2023", "esnext.disposable", "dom"],
    module: "preserve",
    allowImportingTsExtensions: true,
    skipLibCheck: true,
    types: ["node"],
    paths: {
      iudex: entry("index"),
      "iudex/catalogue": entry("catalogue"),
      "iudex/core": entry("core"),
      "iudex/desk": entry("desk"),
      "iudex/fleet": entry("fleet"),
      "iudex/http": entry("http"),
      "iudex/page": entry("page"),
      "iudex/page/react": entry("page-react"),
      "iudex/testing": entry("testing"),
    },
  };
  const folder = await folderWith({ ...files, "around.d.ts": around, "strangers.d.ts": strangers });
  await symlink(join(projectRoot, "node_modules"), join(folder, "node_modules"));
  const check = async (name: string, settings: object) => {
    await writeFile(join(folder, name), JSON.stringify(settings));
    const tsc = join(projectRoot, "node_modules/.bin/tsc");
    const { stdout } = await run(tsc, ["-p", name], { cwd: folder }).catch((error: { stdout: string }) => error);
    expect(stdout).toBe("");
  };
  const jsx = { jsx: "react-jsx", jsxImportSource: "react" };
  const settings = { compilerOptions: { ...compilerOptions, ...jsx }, include: ["*.ts", "*.tsx"] };
  await check("tsconfig.json", { ...settings, exclude: ["*-preact.tsx"] });
  if (!("page-preact.tsx" in files)) return;
  const react = [join(projectRoot, "node_modules/preact/compat")];
  const preact = {
    ...compilerOptions,
    ...jsx,
    jsxImportSource: "preact",
    paths: { ...compilerOptions.paths, react },
  };
  await check("tsconfig.preact.json", { compilerOptions: preact, include: ["*-preact.tsx"] });
});
