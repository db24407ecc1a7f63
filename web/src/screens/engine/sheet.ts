import type { S } from "../../api/client";

/** The engine sheet and its things, as the contract takes them from the server's own types. */
export type Sheet = S["EngineSheet"];
export type Wheel = S["Wheel"];
export type Stop = S["Stop"];
export type Loop = S["Loop"];
export type Shaft = S["Shaft"];
export type Gear = S["Gear"];
export type Mark = S["Mark"];
export type Lock = S["Lock"];
export type Tensioner = S["Tensioner"];
export type Stage = S["Stage"];
export type Fastener = S["Fastener"];
export type Part = S["Part"];
export type Tool = S["Tool"];
export type When = S["When"];
export type Variation = S["Variation"];
export type Edit = S["SheetEdit"];
export type EngineView = S["EngineView"];

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
