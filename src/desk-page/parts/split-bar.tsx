import type { SplitTrace } from "../../insight/index.ts";
import { partsOf, type Split } from "../../model/index.ts";

/** How a rule divides between variants, as parts of a bar. */
export function SplitBar({ split, trace }: { readonly split: Split; readonly trace: SplitTrace | undefined }) {
  const parts = partsOf(split);
  return (
    <div class="split">
      <div
        class="parts"
        role="img"
        aria-label={parts.map(({ variant, fraction }) => `${variant} ${percent(fraction)}`).join(", ")}
      >
        {parts.map(({ variant, fraction }, i) => (
          <span
            key={variant}
            class={`fill fill-${Math.min(i, 4)} ${trace?.variant === variant ? "theirs" : ""}`}
            style={{ flexGrow: fraction }}
          >
            {variant} {percent(fraction)}
          </span>
        ))}
      </div>
      {trace && (
        <p>
          {trace.id === undefined ? `There is no ${trace.by} to go by.` : `${trace.id} gets `}
          {trace.id !== undefined && <b>{trace.variant}</b>}
        </p>
      )}
    </div>
  );
}

function percent(fraction: number): string {
  return `${Number((fraction * 100).toFixed(1))}%`;
}
