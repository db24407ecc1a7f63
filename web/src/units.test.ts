import { readFileSync } from "node:fs";
import { create, unitDependencies } from "mathjs";
import { describe, expect, test } from "vitest";

// A second opinion on every conversion: mathjs, a general-purpose library of units, against what the core makes of each.
const { unit } = create({ unitDependencies });

/** what the units are called there */
const there: Record<string, string> = {
  N·m: "N m",
  lbf·ft: "lbf ft",
  lbf·in: "lbf in",
  kgf·m: "kgf m",
  N·cm: "N cm",
  kgf·cm: "kgf cm",
  "°": "deg",
  turns: "cycle",
  mm: "mm",
  in: "in",
  s: "s",
  min: "min",
  h: "h",
  Hz: "Hz",
  "°C": "degC",
  "°F": "degF",
  L: "L",
  mL: "mL",
  qt: "qt",
};

interface Conversion {
  value: number;
  from: string;
  to: string;
  is: number;
}

const all: Conversion[] = JSON.parse(
  readFileSync(new URL("../../internal/core/unit/testdata/conversions.json", import.meta.url), "utf8"),
);

describe("a units library converts as the core does", () => {
  test.each(all)("$value $from in $to", ({ value, from, to, is }) => {
    const got = unit(value, there[from]).toNumber(there[to]);
    // Its quart has four figures.
    const near = from === "qt" || to === "qt" ? 2e-4 : 1e-9;
    expect(Math.abs(got - is)).toBeLessThanOrEqual(near * Math.max(1, Math.abs(is)));
  });
});
