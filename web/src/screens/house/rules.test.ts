import { expect, test } from "vitest";
import type { S } from "../../api/client";
import { familyOf, type Rules, sizesIn, sorted, weighs, withFamily, withWeight } from "./rules";

const tooth: S["HouseFamily"] = {
  id: "tooth",
  name: "A tooth out",
  doc: "",
  least: 100,
  occurrence: 6,
  sizes: [1, 2],
  unit: "teeth",
};
const rule: S["WeighedRule"] = { id: "backwards", family: "turns", doc: "", severity: "should-fix" };

test("a weight that a rule has by itself is not said", () => {
  const r = withWeight({}, rule, "blocks");
  expect(weighs(r, rule)).toBe("blocks");
  expect(withWeight(r, rule, "should-fix").severities).toEqual({});
});

test("a family that is as ours is not said, and sizes of ours are kept", () => {
  const r = withFamily({}, tooth, { least: 80 });
  expect(r.drill).toEqual({ tooth: { least: 80, occurrence: 6 } });
  expect(familyOf(r, tooth)).toEqual({ off: false, least: 80, occurrence: 6, sizes: [1, 2] });
  const sized = withFamily(r, tooth, { sizes: [1] });
  expect(sized.drill?.tooth?.sizes).toEqual([1]);
  expect(withFamily(sized, tooth, { least: 100, sizes: [1, 2] }).drill).toEqual({});
  expect(withFamily({} as Rules, tooth, { off: true }).drill).toEqual({ tooth: { off: true, least: 100, occurrence: 6 } });
});

test("sizes are read as people write them", () => {
  expect(sizesIn("1, 2")).toEqual([1, 2]);
  expect(sizesIn("1; 2.5")).toEqual([1, 2.5]);
  expect(sizesIn("0,5 2")).toEqual([0.5, 2]);
  expect(sizesIn("")).toBeUndefined();
  expect(sizesIn("two")).toBeUndefined();
  expect(sizesIn("-1")).toBeUndefined();
});

test("pages are sorted by what becomes of them", () => {
  const row = (blocked: number, blocks: number) => ({ blocked, blocks }) as S["HouseTrialRow"];
  const s = sorted([row(0, 1), row(2, 1), row(1, 1)]);
  expect([s.worse.length, s.better.length, s.rest.length]).toEqual([1, 1, 1]);
});
