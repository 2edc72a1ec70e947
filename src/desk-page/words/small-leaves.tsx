import { useState } from "preact/hooks";
import type { Change } from "../../desk/index.ts";
import { type FlagDefinition, subjectOf } from "../../model/index.ts";
import { allFlags } from "../asking/question.ts";
import { question } from "../asking/question-now.ts";
import { show } from "../definitions/asking.ts";
import { setFor } from "../definitions/versions.ts";
import { giveWords, ValueField } from "../parts/fields.tsx";
import { FormField, formOf } from "../parts/form-field.tsx";
import { Leaf, type LeafAct } from "./leaf.tsx";
import { changeOf, type FlagChange, InOne, placed, type RulePlace, Where } from "./places.tsx";

function textIn(form: FormData, name: string): string {
  return String(form.get(name) ?? "").trim();
}

/** What a rule gives. */
export function GiveLeaf({ place }: { readonly place: RulePlace }) {
  const value = giveWords(place.rule.source.give);
  return (
    <Leaf
      place={`${place.at}/give`}
      title="What they get"
      change={(form) => {
        const give = textIn(form, "give");
        return placed(form, place, give === value ? undefined : changeOf(place, { give }), true);
      }}
      acts={splitAct(place)}
    >
      <ValueField flag={place.flag} name="give" value={value} label={formOf("flag", "give").says} />
      <Where place={place} isAdjusted />
    </Leaf>
  );
}

/** One value for all becomes a split between variants, half and half. */
function splitAct(place: RulePlace): readonly LeafAct[] {
  const variants = [...(place.flag.variants?.keys() ?? [])];
  if (variants.length < 2) return [];
  const split = variants.map((name) => `1 ${name}`).join(", ");
  return [
    { says: "Divide them between variants", does: (form) => placed(form, place, changeOf(place, { split }), true) },
  ];
}

/** How a rule divides people between variants: parts as whole numbers, as the file has them. */
export function PartsLeaf({ place }: { readonly place: RulePlace }) {
  const variants = [...(place.flag.variants?.keys() ?? [])];
  // In the order of the file, so that who does not have to move stays.
  const first = new Map(place.rule.division!.split!.entrants.map(({ variant, parts }) => [variant, String(parts)]));
  const [parts, setParts] = useState<ReadonlyMap<string, string>>(
    new Map([...first, ...variants.filter((name) => !first.has(name)).map((name) => [name, "0"] as const)]),
  );
  const numbers = [...parts.values()].map(Number);
  const sum = numbers.reduce((a, b) => a + b, 0);
  const isSound = numbers.every((part) => Number.isInteger(part) && part >= 0) && sum > 0;
  const split = [...parts]
    .filter(([name, part]) => part !== "0" || first.has(name))
    .map(([name, part]) => `${part} ${name}`);
  return (
    <Leaf
      place={`${place.at}/parts`}
      title="How they are divided"
      change={(form) => {
        if (!isSound)
          return {
            message: "Parts are whole numbers, and not all of them 0.",
            help: "write 2 and 1 for two thirds and one third",
          };
        const isSame = [...parts].every(([name, part]) => part === (first.get(name) ?? "0"));
        return placed(form, place, isSame ? undefined : changeOf(place, { split: split.join(", ") }), true);
      }}
      acts={variants.slice(0, 4).map((give) => ({
        says: `All get ${give}`,
        does: (form) => placed(form, place, changeOf(place, { give }), true),
      }))}
    >
      {variants.map((name) => (
        <label key={name} class="part-of-split">
          <span>{name}</span>
          <input
            type="number"
            min={0}
            step={1}
            value={parts.get(name)}
            onInput={(event) => setParts(new Map(parts).set(name, event.currentTarget.value))}
          />
          <span class="share-of-split">
            {isSound ? `${Number(((Number(parts.get(name)) / sum) * 100).toFixed(1))}%` : ""}
          </span>
        </label>
      ))}
      <p class="hint">People stay where they are as far as the new parts allow.</p>
      <Where place={place} isAdjusted />
    </Leaf>
  );
}

/** By which attribute a rule draws. */
export function ByLeaf({ place }: { readonly place: RulePlace }) {
  const standing = place.rule.source.by;
  const attributes = [...(setFor(question.value.asked)?.definitions?.attributes.keys() ?? [])];
  const usual = subjectOf(place.flag);
  return (
    <Leaf
      place={`${place.at}/by`}
      title="By which attribute people are drawn"
      change={(form) => {
        const by = textIn(form, "by");
        return placed(form, place, by === (standing ?? "default") ? undefined : changeOf(place, { by }), false);
      }}
    >
      <label>
        Drawn by{" "}
        <select name="by">
          <option value="default">{usual === "" ? "that of the file" : `${usual}, as in the file`}</option>
          {attributes.map((name) => (
            <option key={name} selected={name === standing}>
              {name}
            </option>
          ))}
        </select>
      </label>
      <p class="hint">By another attribute everybody is drawn anew: who is in and who is out changes for most.</p>
      <Where place={place} isAdjusted={false} />
    </Leaf>
  );
}

interface RuleTextLeafProps {
  readonly place: RulePlace;
  readonly field: "called" | "remark";
  readonly count: number;
}

/** What a rule is called, with what can be done with the whole of it; or the remark on it. */
export function RuleTextLeaf({ place, field, count }: RuleTextLeafProps) {
  const { name, note } = place.rule.source;
  const { number } = place.rule;
  const value = (field === "called" ? name : note) ?? "";
  const act = (fields: Partial<FlagChange>) => (form: FormData) => placed(form, place, changeOf(place, fields), false);
  const acts: readonly LeafAct[] =
    field === "remark"
      ? []
      : [
          ...(number > 1 ? [{ says: "Move it up", does: act({ place: number - 1 }) }] : []),
          ...(number < count ? [{ says: "Move it down", does: act({ place: number + 1 }) }] : []),
          { says: "Take the rule out", does: act({ remove: true }) },
        ];
  return (
    <Leaf
      place={`${place.at}/${field}`}
      title={field === "called" ? `Rule ${number}: what it is called` : "A remark for people"}
      change={(form) => {
        const text = textIn(form, field);
        if (field === "called" && text === "" && value !== "")
          return { message: "A rule keeps a name once it has one." };
        return placed(form, place, text === value ? undefined : changeOf(place, { [field]: text }), false);
      }}
      acts={acts}
    >
      <FormField change="flag" field={field} value={value} />
      <Where place={place} isAdjusted={false} />
    </Leaf>
  );
}

interface FlagFieldLeafProps {
  readonly flag: FlagDefinition;
  readonly field: string;
  readonly value: string;
}

/** Something that is said of the flag itself. */
export function FlagFieldLeaf({ flag, field, value }: FlagFieldLeafProps) {
  const { says } = formOf("flag", field);
  return (
    <Leaf
      place={`${flag.name}/${field}`}
      title={says}
      change={(form) => {
        const text = textIn(form, field);
        return text === value ? [] : [{ change: "flag", flag: flag.name, [field]: text }];
      }}
    >
      {field === "safe" ? (
        <ValueField flag={flag} name={field} value={value} label={says} />
      ) : (
        <FormField change="flag" field={field} value={value} />
      )}
    </Leaf>
  );
}

interface OtherwiseLeafProps {
  readonly flag: FlagDefinition;
  readonly environment: string | undefined;
  readonly value: string;
}

/** What everybody else gets, everywhere or in one environment. */
export function OtherwiseLeaf({ flag, environment, value }: OtherwiseLeafProps) {
  const hasOwn = environment !== undefined && flag.source.environments?.[environment]?.otherwise !== undefined;
  const own = hasOwn ? environment : undefined;
  return (
    <Leaf
      place={`${flag.name}/${environment ?? ""}/otherwise`}
      title={formOf("flag", "otherwise").says}
      change={(form) => {
        const otherwise = textIn(form, "otherwise");
        const where = textIn(form, "where");
        if (otherwise === value) return [];
        return [{ change: "flag", flag: flag.name, otherwise, ...(where === "" ? {} : { environment: where }) }];
      }}
    >
      <ValueField flag={flag} name="otherwise" value={value} label={formOf("flag", "otherwise").says} />
      <InOne here={question.value.asked.environment ?? own} but={own} />
    </Leaf>
  );
}

/** What a flag is called, and what becomes of the whole of it. */
export function FlagNameLeaf({ flag, uses }: { readonly flag: FlagDefinition; readonly uses: readonly string[] }) {
  const to = (form: FormData) => textIn(form, "to");
  const kept = (changes: readonly Change[]) => {
    const last = changes.at(-1)!;
    show(last.change === "remove-flag" ? allFlags : { view: "flag", name: (last as { readonly to: string }).to });
  };
  return (
    <Leaf
      place={`${flag.name}/name`}
      title="What the flag is called"
      keep="Rename it"
      kept={kept}
      change={(form) => {
        const name = to(form);
        return name === "" || name === flag.name ? [] : [{ change: "rename", flag: flag.name, to: name }];
      }}
      acts={[
        {
          says: "Copy it under this name",
          does: (form) =>
            to(form) === flag.name
              ? { message: "A copy needs a name of its own.", help: "write it in the field" }
              : [{ change: "copy", flag: flag.name, to: to(form) }],
        },
        { says: "Take the flag out", does: () => [{ change: "remove-flag", flag: flag.name }] },
      ]}
    >
      <label>
        Name <input type="text" name="to" defaultValue={flag.name} autocomplete="off" />
      </label>
      <p class="hint">
        People keep their groups under another name. Programs ask for it by name: they must ask for the new one.
        {uses.length > 0 && ` Before it is taken out, ${uses.join(", ")} must name it no longer.`}
      </p>
    </Leaf>
  );
}

/** The value of a variant, or a variant more. */
export function VariantLeaf({
  flag,
  variant,
}: {
  readonly flag: FlagDefinition;
  readonly variant: string | undefined;
}) {
  const value = variant === undefined ? "" : giveWords(flag.variants!.get(variant));
  return (
    <Leaf
      place={`${flag.name}/variant-${variant ?? ""}`}
      title={variant === undefined ? "A variant more" : `The variant ${variant}`}
      change={(form) => {
        const [name, written] = [variant ?? textIn(form, "variant"), textIn(form, "value")];
        if (variant === undefined && name === "") return [];
        return written === value ? [] : [{ change: "variant", flag: flag.name, variant: name, value: written }];
      }}
      acts={
        variant === undefined
          ? []
          : [{ says: "Take it out", does: () => [{ change: "variant", flag: flag.name, variant, remove: true }] }]
      }
    >
      {variant === undefined && <FormField change="variant" field="variant" />}
      <label>
        Its value <textarea name="value" rows={flag.type === "data" ? 5 : 1} spellcheck={false} defaultValue={value} />
      </label>
    </Leaf>
  );
}
