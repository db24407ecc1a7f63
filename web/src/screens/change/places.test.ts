import { describe, expect, it } from "vitest";
import { bodyOf, counted, keyOf, type Page, toggled } from "./places";

const page = (over: Partial<Page>): Page => ({
  engine: "TQ4-18P",
  title: "Renew",
  number: 3,
  state: "latched",
  version: 7,
  places: [
    { key: "s1", texts: [] },
    { key: "s2", texts: [] },
  ],
  opens: [],
  new: [],
  until: [],
  settled: [],
  ...over,
});
const plan = { from: "42 N·m", to: "45 N·m", pages: [], places: 0, near: [] };

describe("places", () => {
  it("are all chosen until one is left out", () => {
    const p = page({ revision: 4 });
    expect(counted([p], new Set())).toEqual({ places: 2, pages: 1 });
    const left = toggled(new Set(), p, ["s1"]);
    expect(counted([p], left)).toEqual({ places: 1, pages: 1 });
    expect(bodyOf(p, plan, left, "Why")?.places).toEqual(["s2"]);
    expect(toggled(left, p, ["s1"]).size).toBe(0);
    expect(bodyOf(p, plan, toggled(left, p, ["s2"]), "Why")).toBeUndefined();
  });
  it("of a sheet name its code and number", () => {
    const s = page({ revision: undefined });
    expect(keyOf(s)).toBe("sheet TQ4-18P");
    expect(bodyOf(s, plan, new Set(), "Why")).toMatchObject({ engine: "TQ4-18P", number: 3, version: 7 });
  });
});
