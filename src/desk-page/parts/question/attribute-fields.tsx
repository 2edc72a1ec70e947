import { useState } from "preact/hooks";
import { readPath } from "../../../judge/index.ts";
import { parsePath, printPath } from "../../../language/index.ts";
import { type AttributeDefinition, putAt, readDeclared } from "../../../model/index.ts";
import { attributesOf } from "../../asking/address.ts";
import { currentSet } from "../../definitions/versions.ts";

interface AttributeFieldsProps {
  readonly context: Readonly<Record<string, unknown>>;
  change(context: Readonly<Record<string, unknown>>): void;
}

/** What is known of a person, attribute by attribute; each field reads what is written by the declared type. */
export function AttributeFields({ context, change }: AttributeFieldsProps) {
  const declared = [...(currentSet()?.definitions?.attributes.values() ?? [])];
  const set = (path: readonly string[], value: unknown) => {
    const next = structuredClone(context) as Record<string, unknown>;
    putAt(next, path, value);
    change(withoutNothing(next));
  };
  const names = new Set(declared.map(({ name }) => name));
  const others = [...attributesOf(context)].filter(([name]) => !names.has(name));
  return (
    <div class="fields">
      {declared.map((attribute) => (
        <AttributeField
          key={attribute.name}
          attribute={attribute}
          value={readPath(context, attribute.path)}
          change={(value) => set(attribute.path, value)}
        />
      ))}
      {others.map(([name, value]) => (
        <p key={name}>
          {name}: <code>{JSON.stringify(value)}</code> <i>not declared</i>{" "}
          <button type="button" class="quiet" onClick={() => set(parsePath(name).path ?? [name], undefined)}>
            Take it out
          </button>
        </p>
      ))}
    </div>
  );
}

interface AttributeFieldProps {
  readonly attribute: AttributeDefinition;
  readonly value: unknown;
  change(value: unknown): void;
}

function AttributeField({ attribute, value, change }: AttributeFieldProps) {
  const [fault, setFault] = useState(false);
  const { type, name } = attribute;
  const text = textOf(value);
  const hint = `${kindOf(type)}${attribute.private ? "; private, so it stays out of the address" : ""}`;
  const id = `attribute-${printPath(attribute.path)}`;
  const take = (written: string) => {
    const read = written === "" ? undefined : readDeclared(written, type);
    setFault(written !== "" && read === undefined);
    if (written === "" || read !== undefined) change(read);
  };
  const choices = type === "yes-no" ? ["true", "false"] : Array.isArray(type) ? (type as readonly string[]) : undefined;
  return (
    <div class="field">
      <label for={id}>{name}</label>
      {choices ? (
        <select
          id={id}
          value={text}
          aria-describedby={`${id}-kind`}
          onChange={(event) => take(event.currentTarget.value)}
        >
          <option value="">not known</option>
          {choices.map((choice) => (
            <option key={choice} value={choice}>
              {choice}
            </option>
          ))}
        </select>
      ) : (
        <input
          id={id}
          type="text"
          autocomplete="off"
          value={text}
          aria-invalid={fault}
          aria-describedby={`${id}-kind`}
          onChange={(event) => take(event.currentTarget.value)}
        />
      )}
      <i id={`${id}-kind`} class={fault ? "fault" : undefined}>
        {fault ? `That is no ${kindOf(type)}.` : hint}
      </i>
    </div>
  );
}

function kindOf(type: AttributeDefinition["type"]): string {
  return Array.isArray(type) ? "one of these" : String(type);
}

function textOf(value: unknown): string {
  if (value === undefined || value === null) return "";
  if (Array.isArray(value)) return value.join(", ");
  return typeof value === "object" ? JSON.stringify(value) : String(value);
}

/** Without attributes that hold nothing, and objects that are empty for it. */
function withoutNothing(context: Record<string, unknown>): Record<string, unknown> {
  const kept: Record<string, unknown> = {};
  for (const [key, value] of Object.entries(context)) {
    if (value === undefined) continue;
    const isHolder = typeof value === "object" && value !== null && !Array.isArray(value);
    const inner = isHolder ? withoutNothing(value as Record<string, unknown>) : value;
    if (!isHolder || Object.keys(inner as object).length > 0) kept[key] = inner;
  }
  return kept;
}
