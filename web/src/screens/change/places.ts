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

/** pieces cuts a text and what it becomes into what both begin with, what goes, what comes, and what both end with, at words. */
export function pieces(before: string, after: string): [string, string, string, string] {
  const a = before.split(/(?<= )/);
  const b = after.split(/(?<= )/);
  let i = 0;
  while (i < a.length && i < b.length && a[i] === b[i]) i++;
  let k = 0;
  while (k < a.length - i && k < b.length - i && a[a.length - 1 - k] === b[b.length - 1 - k]) k++;
  const cut = (w: string[]) =>
    w
      .slice(i, w.length - k)
      .join("")
      .trimEnd();
  const tail = a.slice(a.length - k).join("");
  return [a.slice(0, i).join(""), cut(a), cut(b), tail ? ` ${tail}`.replace(/^ (?=[,.;:])/, "") : ""];
}
