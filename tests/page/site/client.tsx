/** @jsxImportSource react */
import { followPage } from "iudex/page";
import { hydrateRoot } from "react-dom/client";
import { App, renders } from "./app.tsx";
import { catalogue } from "./catalogue.ts";

const tab = new URLSearchParams(location.search);
const flags = followPage({
  catalogue,
  first: "#flags",
  changes: "/changes",
  values: "/values",
  seen: "/seen",
  shared: tab.get("shared") ?? undefined,
  onProblem: ({ at, message }) => document.body.setAttribute(`data-${at}`, message),
});
flags.subscribe(() => {
  document.body.dataset["heard"] = String(performance.now());
});
Object.assign(globalThis, { flags, renders });
hydrateRoot(document.getElementById("app")!, <App flags={flags} />);
document.body.dataset["ready"] = "yes";
