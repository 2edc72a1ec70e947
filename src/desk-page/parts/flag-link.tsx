import { addressTo } from "../definitions/asking.ts";

/** A flag's name, leading to it under the question as it is. */
export function FlagLink({ name }: { readonly name: string }) {
  return (
    <a class="name" href={addressTo({ view: "flag", name })}>
      {name}
    </a>
  );
}
