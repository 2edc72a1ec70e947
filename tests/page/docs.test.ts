// The examples of docs/page.md, as they stand there: the service as a process, each page in a real browser.
import { spawn } from "node:child_process";
import { once } from "node:events";
import { cp, mkdir, readFile, symlink, writeFile } from "node:fs/promises";
import { createServer } from "node:net";
import { join } from "node:path";
import { build, type InlineConfig } from "vite";
import { afterAll, beforeAll, expect, it, onTestFinished } from "vitest";
import { browser, closeBrowser, hasChromium, watchFor } from "../support/browser.ts";
import { projectRoot, put } from "../support/folders.ts";
import { scratch } from "../support/scratch.ts";

const definitions = (storm: boolean) => `iudex: 1
flags:
  storm-mode: { safe: ${storm} }
  seat-map: { safe: list, otherwise: deck-plan }
`;

let home: string;

beforeAll(async () => {
  home = await scratch();
  const text = await readFile(join(projectRoot, "docs/page.md"), "utf8");
  for (const [, name, code] of text.matchAll(/```tsx?\n\/\/ (\S+)\n([\s\S]*?)```/g)) await put(home, name!, code!);
  await writeFile(join(home, "package.json"), '{ "type": "module" }');
  // What a program installs: the library as it is packed, and the packages that the examples name.
  const modules = join(home, "node_modules");
  await mkdir(modules);
  for (const name of ["express", "react", "react-dom", "preact", "vite"])
    await symlink(join(projectRoot, "node_modules", name), join(modules, name));
  await mkdir(join(modules, "iudex"));
  for (const part of ["package.json", "dist"])
    await cp(join(projectRoot, part), join(modules, "iudex", part), { recursive: true });
  await symlink(join(projectRoot, "node_modules"), join(modules, "iudex/node_modules"));
});
afterAll(closeBrowser);

async function bundle(config: InlineConfig): Promise<void> {
  await build({ root: home, configFile: false, logLevel: "error", mode: "production", ...config });
}

async function freePort(): Promise<number> {
  const server = createServer().listen(0, "127.0.0.1");
  await once(server, "listening");
  const { port } = server.address() as { port: number };
  server.close();
  return port;
}

it.skipIf(!hasChromium).each([
  ["page.ts", {}],
  ["page-react.tsx", { esbuild: { jsx: "automatic", jsxDev: false } }],
  ["page-preact.tsx", { configFile: "vite.config.ts" }],
] as const)("%s follows its service", async (page, config: InlineConfig) => {
  const own = config.configFile ? { ...config, configFile: join(home, "vite.config.ts") } : config;
  await bundle({
    ...own,
    ...(own.configFile ? {} : { define: { "process.env.NODE_ENV": '"production"' } }),
    build: {
      outDir: "dist",
      modulePreload: false,
      rollupOptions: { input: join(home, page), output: { entryFileNames: "page.js" } },
    },
  });
  await bundle({
    build: {
      ssr: join(home, "server.ts"),
      outDir: "service",
      rollupOptions: { output: { entryFileNames: "server.js" } },
    },
  });
  await put(home, "flags/a.yaml", definitions(false));
  const port = await freePort();
  const service = spawn(process.execPath, ["service/server.js"], {
    cwd: home,
    env: { ...process.env, PORT: String(port) },
    stdio: ["ignore", "ignore", "pipe"],
  });
  let errors = "";
  service.stderr.on("data", (piece) => {
    errors += String(piece);
  });
  onTestFinished(() => {
    service.kill();
    expect(errors).toBe("");
  });
  const address = `http://127.0.0.1:${port}/`;
  await expect.poll(() => fetch(address).then(({ status }) => status, String)).toBe(200);
  const context = await (await browser()).newContext();
  onTestFinished(() => context.close());
  const tab = await context.newPage();
  // The example has no picture for the tab.
  onTestFinished(watchFor(tab, /favicon|status of 404/));
  await tab.goto(address);
  await tab.getByText("The boats sail.").waitFor();
  await tab.getByText("Seats: deck-plan").waitFor();
  await put(home, "flags/a.yaml", definitions(true));
  await tab.getByText("The boats stay in harbour.").waitFor();
});
