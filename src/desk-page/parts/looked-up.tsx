import type { ReadSet } from "../definitions/read-set.ts";

/** Whether people are being looked up in the long lists, or could not be. */
export function LookedUp({ set }: { readonly set: ReadSet }) {
  const lookup = set.lookup.value;
  if (lookup.state !== "failed") return <span class="waits"> Looking …</span>;
  return (
    <span class="waits">
      {" "}
      That could not be found out: {lookup.reason}{" "}
      <button type="button" class="quiet" onClick={lookup.again}>
        Try again
      </button>
    </span>
  );
}
