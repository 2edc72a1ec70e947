import { useState } from "preact/hooks";
import type { Change } from "../../../desk/index.ts";
import { parsePath } from "../../../language/index.ts";
import { type FlagDefinition, putAt } from "../../../model/index.ts";
import { isObject, sameData, show } from "../../../values/index.ts";
import { attributesOf } from "../../asking/address.ts";
import { instantOf } from "../../asking/clock.ts";
import { isPrivateIn } from "../../asking/private.ts";
import type { Circumstances } from "../../asking/question.ts";
import type { ReadSet } from "../../definitions/read-set.ts";
import { textIn } from "../../parts/change-form.tsx";
import { giveWords, ValueField } from "../../parts/fields.tsx";
import { Leaf, type Written } from "../../words/leaf.tsx";

export type Example = NonNullable<FlagDefinition["source"]["for-instance"]>[number];
export type Context = Readonly<Record<string, unknown>>;

export interface AddExampleProps {
  readonly flag: FlagDefinition;
  readonly set: ReadSet;
  readonly asked: Circumstances;
}

interface ExampleLeafProps {
  readonly flag: FlagDefinition;
  readonly index: number;
  readonly example: Example;
}

/** An example that is there: who it is, and what they get. */
export function ExampleLeaf({ flag, index, example }: ExampleLeafProps) {
  const gives = giveWords(example.gives);
  const as = show(example.as, 5_000);
  return (
    <Leaf
      place={`${flag.name}/example-${index}`}
      title={`Example ${index + 1}`}
      change={(form): Written => {
        const [given, context] = [textIn(form, "gives") ?? "", readContext(textIn(form, "as") ?? "")];
        if (!context) return { message: "Who it is must be an object of JSON.", help: 'write {"trips": 3}' };
        if (given === gives && sameData(context, example.as)) return [];
        const { at, in: environment } = example;
        const change = {
          change: "example",
          flag: flag.name,
          as: context,
          gives: given,
          instead: index + 1,
          isMadeUp: true,
        } as const;
        return [
          {
            ...change,
            ...(at === undefined ? {} : { at: String(at) }),
            ...(environment === undefined ? {} : { environment }),
          },
        ];
      }}
      acts={[{ says: "Take it out", does: () => [{ change: "example", flag: flag.name, dropExample: index + 1 }] }]}
    >
      <label>
        Who it is <textarea name="as" rows={2} spellcheck={false} defaultValue={as} />
      </label>
      <ValueField flag={flag} name="gives" value={gives} label="They get" />
    </Leaf>
  );
}

function readContext(text: string): Context | undefined {
  try {
    const data: unknown = JSON.parse(text);
    return isObject(data) ? (data as Context) : undefined;
  } catch {
    return undefined;
  }
}

/** An example from the person in question; what is private of them is made up. */
export function NewExampleLeaf({ place, flag, set, asked }: AddExampleProps & { readonly place: string }) {
  const definitions = set.definitions!;
  const context = (asked.whom as { readonly context: Context }).context;
  const isPrivate = isPrivateIn(definitions);
  const known = [...attributesOf(context)];
  const hidden = known.filter(([name]) => isPrivate(name));
  const environment = asked.environment ?? [...definitions.environments.keys()].at(-1);
  const [madeUp, setMadeUp] = useState<Readonly<Record<string, string>>>({});
  const at = instantOf(asked);
  const as: Record<string, unknown> = {};
  for (const [name, value] of known) {
    const given = isPrivate(name) ? madeUp[name]?.trim() : value;
    if (given !== undefined && given !== "") putAt(as, parsePath(name).path ?? [name], given);
  }
  const judge = (who: Context) => set.flagSet(environment).verdict(flag.name, who, { at })!;
  const [wanted, found] = [judge(context), judge(as)];
  const isSame = sameData(wanted.value, found.value);
  return (
    <Leaf
      place={place}
      title="This must stay true"
      change={(): readonly Change[] | { message: string; help: string } => {
        const real = hidden.find(([name, value]) => madeUp[name]?.trim() === String(value));
        if (real) return { message: `That is the real ${real[0]}.`, help: "make one up that is like it" };
        const gives = flag.variants ? (found.variant ?? "") : giveWords(found.value);
        const instant = `${new Date(at).toISOString().slice(0, 16)}Z`;
        const change = { change: "example", flag: flag.name, as, at: instant, gives, isMadeUp: true } as const;
        return [environment === undefined ? change : { ...change, environment }];
      }}
    >
      {hidden.map(([name]) => (
        <label key={name}>
          A made-up {name}{" "}
          <input
            type="text"
            autocomplete="off"
            placeholder="private: it is not written"
            onInput={(event) => setMadeUp({ ...madeUp, [name]: event.currentTarget.value })}
          />
        </label>
      ))}
      <p>
        <code>{show(as, 200)}</code> gets <b>{show(found.value, 80)}</b>
        {isSame
          ? "."
          : `; this person gets ${show(wanted.value, 80)}, by what is private of them. Make it up, and it fits.`}
      </p>
    </Leaf>
  );
}
