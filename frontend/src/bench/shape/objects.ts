import type { Document, Edit, Flat } from "../../api/client";

export type Thing = Document["drawn"][number];
/** A thing as it is put: what is left out has its default. */
export type NewThing = Extract<Edit, { do: "put-drawn" }>["things"][number];

/** What is picked as one: a drawn thing, or a traced region. `ids` are what the picking names. */
export type Item = {
  id: string;
  ids: readonly string[];
  path: string;
  box: readonly [number, number, number, number];
  area: number;
  nodes: number;
  open: number;
  /** Where it crosses itself, mm. */
  crossings: readonly (readonly [number, number])[];
  colour: string | null;
  name: string;
  thing: Thing | null;
};

/** Everything on the sheet that can be picked, the lowest first. */
export function itemsOf(flat: Flat | null, document: Document | null): Item[] {
  if (!flat) return [];
  const drawn = new Map((document?.drawn ?? []).map((t) => [t.id, t]));
  const regionsOf = new Map<string, typeof flat.regions>();
  const traced: Item[] = [];
  for (const region of flat.regions) {
    if (region.left_out) continue;
    if (region.drawn) {
      const list = regionsOf.get(region.drawn) ?? [];
      list.push(region);
      regionsOf.set(region.drawn, list);
    } else
      traced.push({
        id: region.id,
        ids: [region.id],
        path: region.path,
        box: region.box as Item["box"],
        area: region.area,
        nodes: region.nodes,
        open: 0,
        crossings: [],
        colour: region.colour,
        name: region.name,
        thing: null,
      });
  }
  const things: Item[] = flat.things.flatMap((shown) => {
    const thing = drawn.get(shown.id);
    if (!thing || thing.hidden) return [];
    const regions = regionsOf.get(shown.id) ?? [];
    return [
      {
        id: shown.id,
        ids: [shown.id, ...regions.map((r) => r.id)],
        path: shown.path,
        box: shown.box as Item["box"],
        area: regions.reduce((sum, r) => sum + r.area, 0),
        nodes: shown.nodes,
        open: shown.open,
        crossings: shown.crossings as Item["crossings"],
        colour: thing.fill ?? null,
        name: titleOf(thing),
        thing,
      },
    ];
  });
  return [...things.filter((i) => i.thing?.beneath), ...traced, ...things.filter((i) => !i.thing?.beneath)];
}

const FORMS: Record<string, string> = {
  circle: "Circle",
  ring: "Ring",
  ellipse: "Ellipse",
  rectangle: "Rectangle",
  polygon: "Polygon",
  star: "Star",
};

export function titleOf(thing: Thing): string {
  if (thing.name) return thing.name;
  if (thing.kind === "lettering") return `“${thing.text.split("\n")[0]}”`;
  if (thing.kind === "shape") return FORMS[thing.form] ?? thing.form;
  return thing.kind === "line" ? "Line" : "Outline";
}

/** The items that are picked: by their own name or by one of their regions. */
export function pickedItems(items: readonly Item[], picked: readonly string[]): Item[] {
  if (!picked.length) return [];
  const names = new Set(picked);
  return items.filter((item) => item.ids.some((id) => names.has(id)));
}

/** Names to pick for an item: those of its regions, so that both views light up; an open line's own. */
export function namesOf(item: Item): readonly string[] {
  return item.thing && item.ids.length > 1 ? item.ids.slice(1) : item.ids;
}

/** With one item all things of its group. */
export function withGroup(items: readonly Item[], item: Item): Item[] {
  const group = item.thing?.group;
  return group ? items.filter((i) => i.thing?.group === group) : [item];
}

export type Box = { x: number; y: number; width: number; height: number };

export function boxOf(items: readonly Item[]): Box | null {
  if (!items.length) return null;
  const x = Math.min(...items.map((i) => i.box[0]));
  const y = Math.min(...items.map((i) => i.box[1]));
  return {
    x,
    y,
    width: Math.max(...items.map((i) => i.box[0] + i.box[2])) - x,
    height: Math.max(...items.map((i) => i.box[1] + i.box[3])) - y,
  };
}

/** Items like one: of about the same size and proportions, and of the same colour. */
export function likeThis(items: readonly Item[], one: Item): Item[] {
  const near = (a: number, b: number) => Math.abs(a - b) <= 0.12 * Math.max(a, b, 1e-9);
  return items.filter(
    (i) => near(i.box[2], one.box[2]) && near(i.box[3], one.box[3]) && i.colour === one.colour,
  );
}

/** What ids an operation is asked about. */
export const idsOf = (items: readonly Item[]): string[] => items.map((i) => i.id);

export function seed(): string {
  return "d" + crypto.getRandomValues(new Uint32Array(2)).join("").slice(0, 12);
}
