import type { S } from "../../api/client";

export type Severity = "blocks" | "should-fix" | "look";

/** FamilyRule is what a house says of one kind of mistake. */
export interface FamilyRule {
  off?: boolean;
  least: number;
  occurrence: number;
  sizes?: number[];
}

/** Rules are house rules as their JSON has them: values of questions and limits by name, and what has a place of its own. */
export interface Rules {
  [name: string]: unknown;
  vague?: string[];
  severities?: Record<string, Severity>;
  drill?: Record<string, FamilyRule>;
}

/** weighs is what a rule asks under some rules. */
export const weighs = (r: Rules, w: S["WeighedRule"]): Severity => r.severities?.[w.id] ?? (w.severity as Severity);

/** withWeight has a rule weigh otherwise; what it weighs by itself is not said. */
export function withWeight(r: Rules, w: S["WeighedRule"], is: Severity): Rules {
  const all = { ...r.severities };
  if (is === w.severity) delete all[w.id];
  else all[w.id] = is;
  return { ...r, severities: all };
}

/** familyOf is what some rules say of a kind of mistake, ours where they say nothing. */
export function familyOf(r: Rules, f: S["HouseFamily"]): Required<FamilyRule> {
  const own = r.drill?.[f.id];
  return {
    off: own?.off ?? false,
    least: own?.least ?? f.least,
    occurrence: own?.occurrence ?? f.occurrence,
    sizes: own?.sizes?.length ? own.sizes : f.sizes,
  };
}

/** withFamily changes what rules say of a kind of mistake; what is as ours is not said. */
export function withFamily(r: Rules, f: S["HouseFamily"], change: Partial<FamilyRule>): Rules {
  const is = { ...familyOf(r, f), ...change };
  const all = { ...r.drill };
  const sized = is.sizes.join() !== f.sizes.join();
  if (!is.off && is.least === f.least && is.occurrence === f.occurrence && !sized) delete all[f.id];
  else
    all[f.id] = {
      ...(is.off ? { off: true } : {}),
      least: is.least,
      occurrence: is.occurrence,
      ...(sized ? { sizes: is.sizes } : {}),
    };
  return { ...r, drill: all };
}

/** sizesIn reads numbers from a list as people write it; undefined where something in it is none. */
export function sizesIn(text: string): number[] | undefined {
  const words = text.split(/[;\s]+|,\s+|,(?=\S+,)/).filter(Boolean);
  const all = words.map((w) => Number(w.replace(/,$/, "").replace(",", ".")));
  return all.length && all.every((n) => Number.isFinite(n) && n > 0) ? all : undefined;
}

/** sorted is a trial's pages by what the rules do to them: those newly blocked, those blocked no more, and the rest. */
export function sorted(rows: S["HouseTrialRow"][]) {
  const worse = rows.filter((r) => r.blocks > r.blocked);
  const better = rows.filter((r) => r.blocks < r.blocked);
  return { worse, better, rest: rows.filter((r) => r.blocks === r.blocked) };
}
