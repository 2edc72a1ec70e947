import { currentSet } from "../../definitions/versions.ts";

interface InPanelProps {
  readonly environment: string | undefined;
  change(environment: string | undefined): void;
}

/** Which environment is asked for, or every one side by side. */
export function InPanel({ environment, change }: InPanelProps) {
  const environments = [...(currentSet()?.definitions?.environments.values() ?? [])];
  if (environments.length === 0) return <p>These definitions declare no environments.</p>;
  const choices = [
    ...environments.map(({ name, source }) => ({ name, value: name as string | undefined, about: source.about })),
    { name: "every environment", value: undefined, about: "side by side, where they differ" },
  ];
  return (
    <fieldset class="choices">
      <legend>In which environment?</legend>
      {choices.map(({ name, value, about }) => (
        <label key={name}>
          <input type="radio" name="environment" checked={value === environment} onChange={() => change(value)} />
          <span>
            <b>{name}</b> {about && <i>{about}</i>}
          </span>
        </label>
      ))}
    </fieldset>
  );
}
