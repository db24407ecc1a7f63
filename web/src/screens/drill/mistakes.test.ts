import { expect, test } from "vitest";
import type { S } from "../../api/client";
import { stands } from "./Film";
import { filters, grouped, type Mistake, outcomeWords } from "./mistakes";

const look = (number: number, sure: boolean) => ({ step: `s${number}`, number, says: "it shows", sure });
const mistake = (v: Partial<Mistake>): Mistake => ({
  id: "a",
  family: "tooth",
  what: "a tooth out",
  size: "",
  madeAt: "s1",
  number: 1,
  outcome: "caught",
  good: ["caught", "stopped", "absorbed"].includes(v.outcome ?? "caught"),
  missed: false,
  seen: [],
  why: "",
  on: "",
  accepted: "",
  acceptAs: "drill/tooth/cam+1",
  acceptAllAs: "drill/tooth",
  consequence: "nothing",
  severity: 1,
  occurrence: 1,
  detection: 1,
  risk: 1,
  ...v,
});
const families = [
  { id: "bolt", name: "A bolt forgotten", doc: "", needed: false },
  { id: "tooth", name: "A tooth out", doc: "", needed: true },
];
const drilled = (mistakes: Mistake[]): S["Drilled"] => ({
  families,
  steps: [],
  mistakes,
  caught: 0,
  of: mistakes.length,
  missed: 0,
  accepted: 0,
});

test("what a page needs to catch stands first, and a family with none of a filter is left out", () => {
  const d = drilled([
    mistake({ id: "1", family: "bolt", outcome: "not caught" }),
    mistake({ id: "2", outcome: "caught", seen: [look(4, true)] }),
    mistake({ id: "3", outcome: "late", missed: true, seen: [look(9, true)] }),
  ]);
  expect(grouped(d, "open").map((r) => r.mistake?.id ?? r.family.id)).toEqual(["tooth", "3", "bolt", "1"]);
  expect(grouped(d, "caught").map((r) => r.mistake?.id ?? r.family.id)).toEqual(["tooth", "2"]);
  expect(grouped(d, "open")[0]).toMatchObject({ bad: 1, all: 2 });
  expect(grouped(drilled([]), "all")).toEqual([]);
});

test("what is kept with a reason is open no more", () => {
  const m = mistake({ outcome: "not caught", accepted: "the pulley sits before the cover" });
  expect(filters.open.of(m)).toBe(false);
  expect(filters.kept.of(m)).toBe(true);
});

test("a look that may miss it is no catch", () => {
  const m = mistake({ outcome: "not caught", seen: [look(4, false)] });
  expect(filters.may.of(m)).toBe(true);
  expect(filters.open.of(m)).toBe(true);
  expect(outcomeWords(m)).toBe("perhaps");
  expect(filters.may.of(mistake({ outcome: "late", seen: [look(4, false), look(8, true)] }))).toBe(false);
});

test("an outcome names the first step that is sure", () => {
  const seen = [look(4, false), look(7, true), look(9, true)];
  expect(outcomeWords(mistake({ seen }))).toBe("step 7");
  expect(outcomeWords(mistake({ seen }), true)).toBe("caught at step 7");
  expect(outcomeWords(mistake({ seen, outcome: "late" }), true)).toBe("late: it shows at step 7 only");
  expect(outcomeWords(mistake({ outcome: "by force" }))).toBe("by force");
  expect(outcomeWords(mistake({ outcome: "absorbed" }))).toBe("no harm");
});

test("a film hurries past steps at which nothing moves and nothing is seen", () => {
  const state = { shafts: [{ id: "crank", angle: 0 }], locks: [], on: [] } as unknown as S["StepState"];
  const frame = (v: Partial<S["DrillFrame"]>) => ({ wrong: state, right: state, off: [], seen: "", ...v }) as S["DrillFrame"];
  expect(stands(frame({}), frame({}))).toBe(true);
  expect(stands(undefined, frame({}))).toBe(false);
  expect(stands(frame({}), frame({ seen: "the bar stops short" }))).toBe(false);
  expect(stands(frame({}), frame({ wrong: { ...state, locks: ["cam-bar"] } }))).toBe(false);
});
