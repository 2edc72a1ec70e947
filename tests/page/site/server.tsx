/** @jsxImportSource react */
import { followPage, type Told } from "iudex/page";
import { renderToString } from "react-dom/server";
import { App } from "./app.tsx";
import { catalogue } from "./catalogue.ts";

/** The page's markup by what is told of its flags. */
export function render(first: Told): string {
  return renderToString(<App flags={followPage({ catalogue, first })} />);
}
