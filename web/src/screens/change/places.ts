import type { S } from "../../api/client";

export type Page = S["ChangePage"];
/** Chosen are places by page and key; here those that are left out. */
export type Chosen = ReadonlySet<string>;

/** keyOf names a page or an engine sheet. */
export const keyOf = (p: Page) => (p.revision ? `revision ${p.revision}` : `sheet ${p.engine}`);

/** toggled leaves places of a page out, or takes them in again. */
export function toggled(left: Chosen, p: Page, keys: string[]): Chosen {
  const out = new Set(left);
  for (const k of keys) {
    const at = `${keyOf(p)} ${k}`;
    if (!out.delete(at)) out.add(at);
  }
  return out;
}

/** counted is how many places are chosen, on how many pages. */
export function counted(pages: Page[], left: Chosen) {
  const n = pages.map((p) => p.places.filter((x) => !left.has(`${keyOf(p)} ${x.key}`)).length).filter((v) => v > 0);
  return { places: n.reduce((a, b) => a + b, 0), pages: n.length };
}

/** bodyOf is what is sent for one page; nothing where none of its places is chosen. */
export function bodyOf(p: Page, plan: S["ChangePlan"], left: Chosen, reason: string): S["ChangeDo"] | undefined {
  const places = p.places.map((x) => x.key).filter((k) => !left.has(`${keyOf(p)} ${k}`));
  if (places.length === 0) return undefined;
  return {
    from: plan.from,
    to: plan.to,
    reason,
    version: p.version,
    places,
    ...(p.revision ? { revision: p.revision } : { engine: p.engine, number: p.number }),
  };
}
