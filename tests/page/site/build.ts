import { join } from "node:path";
import { build, type InlineConfig } from "vite";
import { projectRoot } from "../../support/folders.ts";

export type Kind = "React" | "Preact";

/** The library as it was built, and Preact in the place of React where that is asked for. */
function aliases(kind: Kind): Record<string, string> {
  const ours = Object.fromEntries(
    [
      ["iudex/page/react", "page-react"],
      ["iudex/page", "page"],
      ["iudex/catalogue", "catalogue"],
    ].map(([entry, file]) => [entry!, join(projectRoot, `dist/${file}.js`)]),
  );
  if (kind === "React") return ours;
  return {
    ...ours,
    "react-dom/client": "preact/compat/client",
    "react-dom/server": "preact-render-to-string",
    "react/jsx-runtime": "preact/jsx-runtime",
    "react-dom": "preact/compat",
    react: "preact/compat",
  };
}

const here = import.meta.dirname;

/** Builds the page for the browser, and what renders it on the server. */
export async function buildSite(kind: Kind, folder: string): Promise<void> {
  const common: InlineConfig = {
    root: here,
    configFile: false,
    logLevel: "error",
    define: { "process.env.NODE_ENV": '"production"' },
    esbuild: { jsx: "automatic", jsxDev: false },
    resolve: { alias: aliases(kind) },
  };
  await build({
    ...common,
    build: {
      outDir: join(folder, "client"),
      target: "es2022",
      modulePreload: false,
      rollupOptions: {
        input: {
          client: join(here, "client.tsx"),
          plain: join(here, "plain.ts"),
          worker: join(here, "worker.ts"),
        },
        output: { entryFileNames: "[name].js", chunkFileNames: "[name].js" },
      },
    },
  });
  await build({
    ...common,
    ssr: { noExternal: true },
    build: {
      ssr: join(here, "server.tsx"),
      outDir: join(folder, "server"),
      rollupOptions: { output: { entryFileNames: "server.mjs" } },
    },
  });
}
