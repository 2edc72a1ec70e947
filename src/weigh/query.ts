import type { Definitions } from "../model/index.ts";
import { type Experiment, experimentOf, type RuleName } from "./experiment.ts";
import type { WeighRequest } from "./weigh.ts";

/** The SQL that a warehouse speaks: PostgreSQL's, or the standard's of 2016. */
export type SqlDialect = "postgres" | "ansi";

/**
 * A query that makes the sums of `weigh` where the rows are: tables `verdicts` and `outcomes`, whose columns are called as in
 * the log (in the standard's dialect `rule_name` for `ruleName`). Window, caps and spans are fixed in it.
 *
 * @throws {ToolError} where there is no such rule
 * @example
 * sumsQuery(definitions, { flag: "zone-fares", environment: "production", measures: ["booked"] }, "postgres")
 */
export function sumsQuery(definitions: Definitions, request: WeighRequest, dialect: SqlDialect): string {
  const { flag, environment, rule, earlier = [], changed = [] } = request;
  const experiment = experimentOf(definitions, { flag, environment, rule, earlier, changed });
  const parts = [
    ["log", dialect === "postgres" ? postgresLog(experiment) : ansiLog(experiment)],
    ["came", dialect === "postgres" ? postgresOutcomes : ansiOutcomes],
    ["told", toldPart(experiment)],
    [
      "two_groups",
      "select subject from told where group_name is not null group by subject, span having count(distinct group_name) > 1",
    ],
    ["person", personPart(experiment, request)],
    ["wanted", wantedPart(request)],
    [
      "kinds",
      "select measure, max(case when amount is null then 0 else 1 end) as has_values from came group by measure",
    ],
    ["total", totalPart(experiment, request)],
    ["figure", figurePart(request)],
  ] as const;
  // Worked out once each: PostgreSQL would put them into each other and work them out again.
  const as = dialect === "postgres" ? "as materialized" : "as";
  return `with ${parts.map(([name, body]) => `${name} ${as} (\n  ${body.trim().replaceAll("\n", "\n  ")}\n)`).join(",\n")}
select
  name as measure, kind, span, day, group_name,
  count(*) as people, avg(y) as mean, var_pop(y) * count(*) as m2,
  sum(case when y <> 0 then 1 else 0 end) as nonzero,
  case when max(y) >= -min(y) then max(y) else min(y) end as largest,
  avg(x) as mean_x, var_pop(x) * count(*) as m2_x,
  sum(case when x <> 0 then 1 else 0 end) as nonzero_x, covar_pop(x, y) * count(*) as cxy,
  (select count(distinct subject) from two_groups) as in_two_groups
from figure
group by name, kind, span, day, group_name
order by name, span, day, group_name;
`;
}

/** How a row, or an entry of its list of rules that left somebody out, is known to be about the rule. */
function isRule({ number, name }: RuleName, rule: string, ruleName: string): string {
  const byNumber = `${ruleName} is null and ${rule} = ${text(String(number))}`;
  return name === undefined ? byNumber : `(${ruleName} = ${text(name)} or ${rule} = ${text(name)} or (${byNumber}))`;
}

/** Any table will do: what it has no column for is missing. */
function postgresLog({ flag, environment, rule, divides }: Experiment): string {
  const elsewhere =
    environment === undefined ? "" : `\n  and not coalesce(v ->> 'environment' <> ${text(environment)}, false)`;
  const left = `(
    select coalesce(e ->> 'id', v ->> 'subject') from jsonb_array_elements(
      case when v ->> 'outside' like '[%' then (v ->> 'outside')::jsonb
        else to_jsonb(string_to_array(coalesce(v ->> 'outside', ''), ';')) end
    ) as e
    where ${isRule(rule, "coalesce(e ->> 'rule', trim(e #>> '{}'))", "(e ->> 'ruleName')")} limit 1
  )`;
  return `
select v ->> 'subject' as subject, (v ->> 'at')::timestamptz as at, coalesce(v ->> 'cause', 'rule') as cause,
  v ->> 'rule' as rule, coalesce(v ->> 'ruleName', v ->> 'rule_name') as rule_name,
  coalesce(v ->> 'variant', v ->> 'value') as variant,
  case when v ->> 'drawn' like '{%' then (v ->> 'drawn')::jsonb ->> 'id' end as drawn,
  ${divides === "share" ? left : "cast(null as text)"} as left_out
from (select to_jsonb(v) as v from verdicts v where v.flag = ${text(flag)} offset 0) as rows
where not coalesce(v ->> 'asked' = 'page', false)${elsewhere}`;
}

const postgresOutcomes = `
select o ->> 'subject' as subject, (o ->> 'at')::timestamptz as at, coalesce(o ->> 'measure', 'outcome') as measure,
  (o ->> 'value')::double precision as amount
from (select distinct to_jsonb(o) as o from outcomes o) as rows`;

function ansiLog({ flag, environment, rule, divides }: Experiment): string {
  const where = environment === undefined ? "" : ` and environment = ${text(environment)}`;
  const named = rule.name === undefined ? "" : ` || @.ruleName == ${JSON.stringify(rule.name)}`;
  const left = `case when json_exists(outside, ${text(`$[*] ? (@.rule == ${rule.number}${named})`)}) then subject end`;
  return `
select subject, at, cause, cast(rule as varchar(20)) as rule, rule_name, variant, cast(null as varchar(200)) as drawn,
  ${divides === "share" ? left : "cast(null as varchar(200))"} as left_out
from verdicts
where flag = ${text(flag)}${where}`;
}

const ansiOutcomes = `
select distinct subject, at, measure, cast(value as double precision) as amount
from outcomes`;

/** Into which group each row says that somebody came, and in which span. */
function toldPart({ rule, divides, groups, values, spans }: Experiment): string {
  const own = `cause = 'rule' and ${isRule(rule, "rule", "rule_name")}`;
  const variants = groups.map(
    (group, g) => `when variant in (${text(group)}, ${text(String(values[g]))}) then ${text(group)}`,
  );
  const inside = divides === "share" ? "'let in'" : `case ${variants.join(" ")} end`;
  return `
select * from (
  select case when ${own} then coalesce(drawn, subject) else coalesce(left_out, subject) end as subject, at, cause,
    case when ${own} then ${inside} when left_out is not null then 'left out' end as group_name,
    ${spanOf("at", spans)} as span
  from log
) as rows
where subject is not null and subject <> '•••' and subject <> ''`;
}

/** The number of the span in which an instant lies; null before the first. */
function spanOf(at: string, spans: Experiment["spans"]): string {
  const whens = spans.flatMap(({ from }, k) =>
    Number.isFinite(from) ? [`when ${at} >= ${instant(from)} then ${k}`] : [],
  );
  if (whens.length === 0) return "0";
  return `case ${whens.reverse().join(" ")}${whens.length < spans.length ? " else 0" : ""} end`;
}

/** Their first verdict decides; an override before it leaves out. Without joins, whose sizes a planner would have to guess. */
function personPart({ spans, groups }: Experiment, { from, until, within }: WeighRequest): string {
  const ends = spans.flatMap(({ until: end }, k) => (Number.isFinite(end) ? [`when ${k} then ${instant(end)}`] : []));
  const end = ends.length === 0 ? undefined : `case span ${ends.join(" ")} end`;
  const fits = (last: string) => `first_at + ${interval(within!)} <= ${last}`;
  const conditions = [
    "first_at is not null and span is not null",
    "(override_at is null or override_at >= first_at)",
    ...(from === undefined ? [] : [`first_at >= ${instant(from)}`]),
    ...(until === undefined ? [] : [`first_at < ${instant(until)}`]),
    ...(within === undefined || until === undefined ? [] : [fits(instant(until))]),
    ...(within === undefined || end === undefined ? [] : [`(${end} is null or ${fits(end)})`]),
  ];
  const first = (what: string) => `min(case when ${what} then at end)`;
  return `
select subject, first_at, group_name, span, cast(first_at at time zone 'UTC' as date) as day
from (
  select firsts.*, case ${groups.map((name, g) => `when at_${g} = first_at then ${text(name)}`).join(" ")} end as group_name,
    ${spanOf("first_at", spans)} as span
  from (
    select subject, ${first("group_name is not null and span is not null")} as first_at, ${first("cause = 'override'")} as override_at,
      ${groups.map((name, g) => `${first(`group_name = ${text(name)} and span is not null`)} as at_${g}`).join(", ")}
    from told
    group by subject
  ) as firsts
) as p
where ${conditions.join("\n  and ")}`;
}

function wantedPart({ measures, guards }: WeighRequest): string {
  const names = measures && [...new Set([...measures, ...Object.keys(guards ?? {})])];
  if (names === undefined)
    return "select distinct measure as name, measure as top, cast(null as varchar(200)) as below from came";
  return names
    .map((name) => {
      const [top, below] = name.split("/");
      return `select ${text(name)} as name, ${text(top!)} as top, ${below === undefined ? "cast(null as varchar(200))" : text(below)} as below`;
    })
    .join("\nunion all ");
}

function totalPart({ spans }: Experiment, { within, caps = {} }: WeighRequest): string {
  const ends = spans.flatMap(({ until }, k) =>
    Number.isFinite(until) ? [` and (p.span <> ${k} or c.at < ${instant(until)})`] : [],
  );
  const end = within === undefined ? ends.join("") : ` and c.at < p.first_at + ${interval(within)}`;
  const bare = "case when k.has_values = 1 then coalesce(sum(c.amount), 0) else count(*) end";
  const capped = Object.entries(caps).map(
    ([name, cap]) =>
      `when c.measure = ${text(name)} and ${bare} > ${cap} then ${cap} when c.measure = ${text(name)} and ${bare} < -${cap} then -${cap}`,
  );
  const amount = capped.length === 0 ? bare : `case ${capped.join(" ")} else ${bare} end`;
  return `
select p.subject, c.measure, cast(${amount} as double precision) as amount
from person as p
join came as c on c.subject = p.subject and c.at >= p.first_at${end}
join kinds as k on k.measure = c.measure
where k.has_values = 0 or c.amount is not null
group by p.subject, c.measure, k.has_values`;
}

function figurePart(_: WeighRequest): string {
  return `
select w.name, p.span, p.day, p.group_name,
  case when w.below is not null then 'ratio' when coalesce(k.has_values, 0) = 1 then 'amount' else 'rate' end as kind,
  case when w.below is null and coalesce(k.has_values, 0) = 0 then case when t.amount > 0 then 1 else 0 end else coalesce(t.amount, 0) end as y,
  cast(coalesce(b.amount, 0) as double precision) as x
from person as p
cross join wanted as w
left join kinds as k on k.measure = w.top
left join total as t on t.subject = p.subject and t.measure = w.top
left join total as b on b.subject = p.subject and b.measure = w.below`;
}

function text(value: string): string {
  return `'${value.replaceAll("'", "''")}'`;
}

function instant(at: number): string {
  return `timestamp with time zone '${new Date(at).toISOString().replace("T", " ").replace("Z", "+00:00")}'`;
}

const units = [
  [86_400_000, "day"],
  [3_600_000, "hour"],
  [60_000, "minute"],
  [1_000, "second"],
] as const;

function interval(milliseconds: number): string {
  const [length, unit] = units.find(([each]) => milliseconds % each === 0) ?? [1_000, "second"];
  return `interval '${milliseconds / length}' ${unit}`;
}
