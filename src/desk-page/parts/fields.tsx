import { useId } from "preact/hooks";
import type { FlagDefinition } from "../../model/index.ts";
import { show } from "../../values/index.ts";
import { currentSet } from "../definitions/versions.ts";

interface WhereFieldProps {
  readonly where: string;
  readonly isFixed?: boolean;
  /** What all of them together are called. */
  readonly all?: string;
  set(where: string): void;
}

/** In every environment, or in one only. */
export function WhereField({ where, isFixed = false, all = "in every environment", set }: WhereFieldProps) {
  const environments = [...(currentSet()?.definitions?.environments.keys() ?? [])];
  if (environments.length === 0) return null;
  if (isFixed) return <p>In {where}.</p>;
  return (
    <label>
      Where?{" "}
      <select value={where} onChange={(event) => set(event.currentTarget.value)}>
        <option value="">{all}</option>
        {environments.map((name) => (
          <option key={name} value={name}>
            in {name} only
          </option>
        ))}
      </select>
    </label>
  );
}

interface ValueFieldProps {
  readonly flag: FlagDefinition;
  readonly name: string;
  readonly value: string;
  readonly label: string;
}

/** A value that the flag can give: a variant, true or false, or what is written. */
export function ValueField({ flag, name, value, label }: ValueFieldProps) {
  const choices = flag.variants ? [...flag.variants.keys()] : flag.type === "yes-no" ? ["true", "false"] : undefined;
  const id = useId();
  return (
    <p class="pair">
      <label for={id}>{label}</label>{" "}
      {choices ? (
        <select id={id} name={name}>
          {choices.map((choice) => (
            <option key={choice} value={choice} selected={choice === value}>
              {choice}
            </option>
          ))}
        </select>
      ) : flag.type === "data" ? (
        <textarea id={id} name={name} rows={5} spellcheck={false} defaultValue={value} />
      ) : (
        <input id={id} type="text" name={name} defaultValue={value} autocomplete="off" />
      )}
    </p>
  );
}

export function giveWords(value: unknown): string {
  return typeof value === "string" ? value : value === undefined ? "" : show(value, 2_000);
}

/** In which file something new is to stand, where there is a choice. */
export function FileField({ files }: { readonly files: Iterable<string> }) {
  const each = [...new Set(files)].sort();
  if (each.length < 2) return null;
  return (
    <label>
      In which file{" "}
      <select name="file">
        {each.map((file) => (
          <option key={file}>{file}</option>
        ))}
      </select>
    </label>
  );
}
