import { scaleTime } from "d3-scale";
import type { TimeWindow } from "../../calendar/index.ts";
import { showDay } from "./times.ts";

interface WindowDrawingProps {
  readonly window: TimeWindow;
  readonly at: number;
  readonly zone: string;
  readonly isWeekly: boolean;
}

const hour = 3_600_000;
const day = 24 * hour;
const [wide, high] = [480, 18];

/** A window drawn over the year that begins a month before; one with opening hours over the week as well. */
export function WindowDrawing({ window, at, zone, isWeekly }: WindowDrawingProps) {
  return (
    <div class="drawing">
      {isWeekly && <Week window={window} at={at} zone={zone} />}
      <Strip window={window} at={at} from={at - 30 * day} until={at + 335 * day} zone={zone} label="The year" />
    </div>
  );
}

/** The seven days that begin with today, one under the other: 0 to 24 hours. */
function Week({ window, at, zone }: Omit<WindowDrawingProps, "isWeekly">) {
  const start = midnightBefore(at, zone);
  return (
    <>
      {[0, 1, 2, 3, 4, 5, 6].map((n) => {
        // Half a day on, so that a day of 23 or 25 hours is still met.
        const from = midnightBefore(start + n * day + day / 2, zone);
        return (
          <Strip
            key={n}
            window={window}
            at={at}
            from={from}
            until={from + day}
            zone={zone}
            label={weekday(from, zone)}
          />
        );
      })}
    </>
  );
}

interface StripProps {
  readonly window: TimeWindow;
  readonly at: number;
  readonly from: number;
  readonly until: number;
  readonly zone: string;
  readonly label: string;
}

function Strip({ window, at, from, until, zone, label }: StripProps) {
  const x = scaleTime([from, until], [0, wide]);
  const open = spansOf(window, from, until);
  const said =
    open.length === 0
      ? "shut"
      : `open ${open.length === 1 ? "" : `${open.length} times `}from ${showDay(open[0]!.from, zone)}`;
  return (
    <div class="strip">
      <span class="strip-name">{label}</span>
      <svg viewBox={`0 0 ${wide} ${high}`} role="img" aria-label={`${label}: ${said}`}>
        <rect x="0.5" y="3.5" width={wide - 1} height={high - 7} class="hollow" />
        {open.map((span) => (
          <rect
            key={span.from}
            x={x(span.from)}
            y="4"
            width={Math.max(0.8, x(span.until) - x(span.from))}
            height={high - 8}
            class="held"
          />
        ))}
        {at >= from && at < until && <line x1={x(at)} x2={x(at)} y1="0" y2={high} class="instant" />}
      </svg>
    </div>
  );
}

/** More spans than this are more than can be told apart. */
const maxSpans = 400;

function spansOf(window: TimeWindow, from: number, until: number): { readonly from: number; readonly until: number }[] {
  const spans: { from: number; until: number }[] = [];
  let isOpen = window.isOpen(from);
  let start = from;
  let next = window.nextChange(from);
  while (spans.length < maxSpans) {
    const end = Math.min(next ?? until, until);
    if (isOpen) spans.push({ from: start, until: end });
    if (next === undefined || next >= until) break;
    start = next;
    isOpen = !isOpen;
    next = window.nextChange(next);
  }
  return spans;
}

function midnightBefore(at: number, zone: string): number {
  const clock = new Intl.DateTimeFormat("en-GB", {
    timeZone: zone,
    hour: "2-digit",
    minute: "2-digit",
    second: "2-digit",
    hourCycle: "h23",
  });
  const [hours = 0, minutes = 0, seconds = 0] = clock.format(at).split(":").map(Number);
  return Math.floor(at / 1_000) * 1_000 - ((hours * 60 + minutes) * 60 + seconds) * 1_000;
}

function weekday(at: number, zone: string): string {
  return new Intl.DateTimeFormat("en-GB", { timeZone: zone, weekday: "short", day: "numeric" }).format(at + 12 * hour);
}
