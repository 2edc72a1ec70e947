import { scaleLinear, scaleTime } from "d3-scale";
import { curveStepAfter, line } from "d3-shape";
import { type ShareTrace, showPosition } from "../../insight/index.ts";
import { printPath } from "../../language/index.ts";
import { rangeAt, type Share } from "../../model/index.ts";
import { showPercent, showRange } from "../../values/index.ts";
import { currentSet } from "../definitions/versions.ts";
import { distance, showMoment, zoneOf } from "./times.ts";

interface ShareLineProps {
  readonly share: Share;
  readonly by: readonly string[];
  readonly at: number;
  readonly trace: ShareTrace | undefined;
}

/** A share as the stretch of positions that it holds; one that rises, as a stepped line over time. */
export function ShareLine({ share, by, at, trace }: ShareLineProps) {
  const range = rangeAt(share.steps, at);
  const subject = printPath(by);
  return (
    <div class="share">
      {share.rises ? (
        <Rising share={share} at={at} position={trace?.position} />
      ) : (
        <Stretch range={range} position={trace?.position} />
      )}
      <p>
        A share of <b>{showRange(range)}</b> by {subject}
        {trace && (trace.id === undefined ? `: there is no ${subject} to go by.` : `: ${where(trace)}`)}
        {trace && !trace.inside && trace.reaches && (
          <>
            {" "}
            It reaches this person on{" "}
            <b>{showMoment(Date.parse(trace.reaches), trace.zone ?? zoneOf(currentSet()?.definitions))}</b>,{" "}
            {distance(Date.parse(trace.reaches) - at)}.
          </>
        )}
      </p>
    </div>
  );
}

function where({ id, position, inside }: ShareTrace): string {
  const place = position === undefined ? "" : ` at ${showPosition(position)},`;
  return `${id} is${place} ${inside ? "inside" : "outside"}.`;
}

interface StretchProps {
  readonly range: { readonly low: number; readonly high: number };
  readonly position: number | undefined;
}

/** From 0 to 100 %: what is held, and where a person lies. */
function Stretch({ range, position }: StretchProps) {
  return (
    <svg
      class="stretch"
      viewBox="0 0 400 22"
      role="img"
      aria-label={`Positions from ${showPercent(range.low)} to ${showPercent(range.high)}`}
    >
      <rect x="0.5" y="4.5" width="399" height="13" class="hollow" />
      <rect x={range.low * 4} y="5" width={Math.max(1, (range.high - range.low) * 4)} height="12" class="held" />
      {position !== undefined && <Place x={position * 400} />}
    </svg>
  );
}

function Place({ x }: { readonly x: number }) {
  return <path d={`M${x} 0 l4 -0 l-4 6 l-4 -6 z M${x} 22 l4 0 l-4 -6 l-4 6 z`} class="person" />;
}

const [wide, high, left, foot] = [420, 96, 36, 18];

/** How a share rises: a step at each instant, “now” as a line across. */
function Rising({
  share,
  at,
  position,
}: {
  readonly share: Share;
  readonly at: number;
  readonly position: number | undefined;
}) {
  const steps = share.steps.filter(({ from }) => Number.isFinite(from));
  const first = Math.min(at, steps[0]?.from ?? at);
  const last = Math.max(at, steps.at(-1)?.from ?? at);
  const margin = Math.max((last - first) * 0.08, 3_600_000);
  const x = scaleTime([first - margin, last + margin], [left, wide - 4]);
  const y = scaleLinear([0, 100], [high - foot, 6]);
  const points: [number, number][] = [
    [first - margin, 0],
    ...steps.map(({ from, high: percent }): [number, number] => [from, percent]),
    [last + margin, steps.at(-1)?.high ?? 0],
  ];
  const path = line<[number, number]>()
    .x(([time]) => x(time))
    .y(([, percent]) => y(percent))
    .curve(curveStepAfter)(points);
  const zone = share.zone ?? zoneOf(currentSet()?.definitions);
  const said = steps
    .map(({ from, high: percent }) => `${showPercent(percent)} from ${showMoment(from, zone)}`)
    .join(", ");
  return (
    <svg class="rising" viewBox={`0 0 ${wide} ${high}`} role="img" aria-label={`It rises: ${said}`}>
      {[0, 50, 100].map((percent) => (
        <g key={percent}>
          <line x1={left} x2={wide} y1={y(percent)} y2={y(percent)} class="grid" />
          <text x={left - 5} y={y(percent) + 3.5} text-anchor="end">
            {percent}%
          </text>
        </g>
      ))}
      {steps
        .filter(({ from }) => Math.abs(x(from) - x(at)) > 62)
        .map(({ from }) => (
          <text key={from} x={x(from)} y={high - 4} text-anchor={x(from) > wide - 40 ? "end" : "middle"}>
            {shortDay(from, zone)}
          </text>
        ))}
      <path d={path ?? ""} class="steps" />
      {position !== undefined && (
        <line x1={left} x2={wide} y1={y(position * 100)} y2={y(position * 100)} class="person-line" />
      )}
      <line x1={x(at)} x2={x(at)} y1="0" y2={high - foot} class="instant" />
      <text x={x(at)} y={high - 4} text-anchor="middle" class="instant-word">
        {shortDay(at, zone)}
      </text>
    </svg>
  );
}

function shortDay(at: number, zone: string): string {
  return showMoment(at, zone).replace(/^\w+, | \d{4}/g, "");
}
