import { execFile } from "node:child_process";
import { mkdir, readFile, symlink, writeFile } from "node:fs/promises";
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
  const keys: { current(): import("iudex").KeySet };
  const revokedPasses: () => Promise<readonly string[]>;
  const signingKey: import("iudex").PassKey;
  const checkInSchema: import("iudex").StandardSchemaV1<unknown, { lanes: number }>;
}
`;

/** Stand-ins for packages that a page names and that are none of ours. */
const strangers = `declare module "pino" { export function pino(): Record<"info" | "warn" | "error", (...words: unknown[]) => void>; }`;

const pages = [
  "README.md",
  "docs/guide.md",
  "docs/running.md",
  "docs/testing.md",
  "docs/http.md",
  "docs/page.md",
  "docs/fleet.md",
  "docs/desk.md",
];

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
  jsx: "react-jsx",
  jsxImportSource: "react",
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

/** The snippets of a page, each in a file by the name that it gives itself. */
async function snippetsOf(page: string): Promise<Record<string, string>> {
  const text = await readFile(join(projectRoot, page), "utf8");
  const snippets = [...text.matchAll(/```tsx?\n([\s\S]*?)```/g)].map(([, code]) => code!);
  expect(snippets.length, page).toBeGreaterThan(0);
  return Object.fromEntries(
    snippets.map((code, i) => [
      /^\/\/ (\S+\.tsx?)\n/.exec(code)?.[1] ?? `snippet-${i + 1}.ts`,
      `${code}\nexport {};\n`,
    ]),
  );
}

it("the README and the pages of the docs show TypeScript that the type checker takes as it stands", async () => {
  const folder = await folderWith({ "around.d.ts": around, "strangers.d.ts": strangers });
  for (const page of pages) {
    await mkdir(join(folder, page), { recursive: true });
    for (const [name, code] of Object.entries(await snippetsOf(page))) await writeFile(join(folder, page, name), code);
  }
  await symlink(join(projectRoot, "node_modules"), join(folder, "node_modules"));
  const check = async (name: string, settings: object) => {
    await writeFile(join(folder, name), JSON.stringify(settings));
    const tsc = join(projectRoot, "node_modules/.bin/tsc");
    const { stdout } = await run(tsc, ["-p", name], { cwd: folder }).catch((error: { stdout: string }) => error);
    expect(stdout).toBe("");
  };
  const include = ["*.d.ts", "**/*.ts", "**/*.tsx"];
  await check("tsconfig.json", { compilerOptions, include, exclude: ["**/*-preact.tsx", "node_modules"] });
  const react = [join(projectRoot, "node_modules/preact/compat")];
  const preact = { ...compilerOptions, jsxImportSource: "preact", paths: { ...compilerOptions.paths, react } };
  await check("tsconfig.preact.json", {
    compilerOptions: preact,
    include: ["*.d.ts", "**/*-preact.tsx"],
    exclude: ["node_modules"],
  });
});
