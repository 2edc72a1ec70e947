import { question } from "../definitions/desk.ts";
import type { ReadSet } from "../definitions/read-set.ts";
import { AllFlags } from "./all-flags.tsx";
import { Coming } from "./coming.tsx";
import { OneFlag } from "./flag/one-flag.tsx";
import { Problems } from "./problems.tsx";
import { Review } from "./review.tsx";

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
    case "problems":
      return <Problems />;
    case "review":
      return <Review />;
    default:
      return <p class="whole">This is still to come.</p>;
  }
}
