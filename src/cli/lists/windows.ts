import { endWords, showInstant } from "../../calendar/index.ts";
import type { WindowDefinition } from "../../model/index.ts";
import { Graph } from "../../model/index.ts";
import { byName, type Listing, type ListRequest, renderList, usedBy } from "./listing.ts";

/** When each window is open, whether it is now, and where it is used. */
export function listWindows(request: ListRequest): Listing {
  const { definitions, at } = request;
  const uses = new Graph(definitions).uses();
  const windows = byName(definitions.windows.values()).map((definition) => {
    const { name, about, window } = definition;
    const next = window.nextChange(at);
    return {
      window: name,
      about,
      means: meaningOf(definition),
      open: window.isOpen(at),
      ...(next === undefined ? {} : { changes: new Date(next).toISOString() }),
      usedBy: uses.get(`window:${name}`) ?? [],
    };
  });
  const items = windows.map(({ window: name, about, means, open, changes }) => {
    const { zone } = definitions.windows.get(name)!.window.parts;
    const next = changes === undefined ? "" : `, until ${showInstant(Date.parse(changes), zone)}`;
    return {
      name,
      about,
      lines: [
        { text: means },
        { front: open ? "Open" : "Shut", text: `at this instant${next}.` },
        { text: usedBy(`window:${name}`, uses) },
      ],
    };
  });
  return { data: { windows }, text: renderList(items, "window", request) };
}

function meaningOf({ hours, window }: WindowDefinition): string {
  const { from, until, zone, except } = window.parts;
  const parts = [
    from === undefined ? undefined : `from ${showInstant(from, zone)}`,
    until === undefined ? undefined : endWords(until, zone, showInstant),
    hours === undefined ? undefined : `${hours}${zone === undefined ? "" : ` (${zone})`}`,
    except.length === 0 ? undefined : `not on ${except.join(", ")}`,
  ];
  const said = parts.filter((part) => part !== undefined).join(", ");
  return `${said.charAt(0).toUpperCase()}${said.slice(1)}.`;
}
