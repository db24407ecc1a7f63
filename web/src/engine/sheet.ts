import type { S } from "../api/client";

/** The engine sheet as the server writes it; every list is of things with an id. */
export interface Wheel {
  id: string;
  name: string;
  shaft?: string;
  mount: string;
  teeth?: number;
  diameter?: number;
  x: number;
  y: number;
  clamps?: string[];
  part?: string;
  range?: number;
  home?: string;
}
export interface Stop {
  wheel: string;
  side: "inside" | "back";
}
export interface Loop {
  id: string;
  name: string;
  kind: "belt" | "chain";
  pitch: number;
  teeth: number;
  thickness?: number;
  width?: number;
  mass?: number;
  standard?: string;
  route: Stop[];
  tensioner?: string;
  part?: string;
}
export interface Shaft {
  id: string;
  name: string;
  kind: string;
  bank?: string;
}
export interface Gear {
  id: string;
  name: string;
  driver: string;
  driven: string;
  idlers?: number;
  module?: number;
  inside?: boolean;
}
export interface Mark {
  id: string;
  name: string;
  kind: "timing" | "loop" | "look-alike";
  wheel?: string;
  loop?: string;
  at: number;
  clock?: number;
  link?: number;
  pointer?: string;
  look?: string;
  shows?: number;
  behind?: string;
}
export interface Lock {
  id: string;
  name: string;
  kind: string;
  holds: string[];
  at?: number;
  repeats?: number;
  play?: number;
  playMM?: number;
  radius?: number;
  carriesTorque?: boolean;
  tool?: string;
  access?: string;
  note?: string;
}
export interface Tensioner {
  id: string;
  name: string;
  method: string;
  wheel?: string;
  pin?: string;
  turn?: string;
  bolts?: string[];
  part?: string;
  travel?: number;
  moves?: number;
  settle?: number;
  wait?: string;
  frequency?: { from: string; to: string; note: string; at?: number; readings?: number };
}
export interface Stage {
  torque?: string;
  angle?: string;
}
export interface Fastener {
  id: string;
  name: string;
  count: number;
  thread?: string;
  class?: string;
  across?: number;
  leftHand?: boolean;
  onShaft?: string;
  singleUse?: boolean;
  lubricant?: string;
  spec?: Stage[];
  pattern?: string;
  holdWith?: string;
}
export interface Part {
  id: string;
  name: string;
  kind: string;
  policy: string;
  if?: string;
  held?: string[];
  seal?: string;
  after?: string[];
  needs?: string;
}
export interface Tool {
  id: string;
  number: string;
  name: string;
  kit?: string;
  equivalents?: { number: string; play: number }[];
}
export interface When {
  years?: { from?: number; to?: number };
  builds?: { from?: number; to?: number };
  with?: string[];
  without?: string[];
}
export interface Variation {
  id: string;
  of: string;
  cases: { when: When; set: Record<string, unknown> }[];
}
export interface Sheet {
  code: string;
  family?: string;
  maker: string;
  use?: string;
  years: { from: number; to?: number };
  cylinders: number;
  cycle: string;
  firingOrder?: number[];
  bore?: string;
  stroke?: string;
  rod?: string;
  interference: string;
  running: "clockwise" | "counterclockwise";
  view: string;
  sides?: string;
  options?: string[];
  banks?: { id: string; name: string; cylinders?: number[] }[];
  shafts: Shaft[];
  wheels: Wheel[];
  loops: Loop[];
  gears?: Gear[];
  marks?: Mark[];
  locks?: Lock[];
  tensioners?: Tensioner[];
  fasteners?: Fastener[];
  parts?: Part[];
  tools?: Tool[];
  varies?: Variation[];
  names?: { id: string; say: string; of: string }[];
  limits: Record<string, number | undefined>;
  evidence?: Record<string, { source?: string; by?: string; on?: string }>;
}

export type Edit = S["SheetEdit"];
export type EngineView = Omit<S["EngineView"], "sheet"> & { sheet: Sheet };

/** set is an edit of one value; undefined takes it out. */
export const set = (path: string, value: unknown): Edit => ({ path, value: value === undefined ? null : value });

/** fresh makes an id from a name that no thing of the list has. */
export function fresh(name: string, taken: { id: string }[] | undefined): string {
  const base =
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-|-$/g, "") || "thing";
  const have = new Set(taken?.map((t) => t.id));
  if (!have.has(base)) return base;
  let n = 2;
  while (have.has(`${base}-${n}`)) n++;
  return `${base}-${n}`;
}

/** figure reads a number as people type it, with a comma or a point. */
export function figure(text: string): number | undefined {
  const t = text.trim().replace("−", "-").replace(",", ".");
  if (t === "") return undefined;
  const n = Number(t);
  return Number.isFinite(n) ? n : Number.NaN;
}

/** shownFigure writes a number with a true minus sign. */
export const shownFigure = (n?: number) => (n === undefined ? "" : String(n).replace("-", "−"));
export const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);

/** stagesText writes the stages of a fastener as people do: “60 N·m + 90°”. */
export const stagesText = (spec?: Stage[] | string) =>
  typeof spec === "string"
    ? spec
    : (spec ?? [])
        .map((g) => g.torque ?? g.angle ?? "")
        .filter(Boolean)
        .join(" + ");
