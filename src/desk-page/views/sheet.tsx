import { question } from "../asking/question-now.ts";
import type { ReadSet } from "../definitions/read-set.ts";
import { AllFlags } from "./all-flags.tsx";
import { Attributes } from "./attributes.tsx";
import { Cohorts } from "./cohorts.tsx";
import { Coming } from "./coming.tsx";
import { OneFlag } from "./flag/one-flag.tsx";
import { History } from "./history.tsx";
import { Problems } from "./problems.tsx";
import { Review } from "./review.tsx";
import { ShelfSheet } from "./shelf-sheet.tsx";
import { Windows } from "./windows.tsx";

/** What the last word of the question asks to be shown. */
export function Sheet({ set }: { readonly set: ReadSet }) {
  const { shown } = question.value;
  switch (shown.view) {
    case "flags":
      return <AllFlags set={set} shown={shown} />;
    case "flag":
      return <OneFlag set={set} name={shown.name} key={shown.name} />;
    case "coming":
      return <Coming set={set} />;
    case "shelf":
      return <ShelfSheet />;
    case "review":
      return <Review />;
    case "cohorts":
      return <Cohorts set={set} name={shown.name} />;
    case "windows":
      return <Windows set={set} name={shown.name} />;
    case "attributes":
      return <Attributes set={set} />;
    case "history":
      return <History />;
    case "problems":
      return <Problems />;
  }
}
