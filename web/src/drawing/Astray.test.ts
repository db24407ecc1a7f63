import { describe, expect, it } from "vitest";
import { degrees, sector } from "./Astray";

describe("what stands off", () => {
  it("says early and late with a sign", () => {
    expect(degrees(9)).toBe("+9°");
    expect(degrees(-0.64)).toBe("−0.6°");
    expect(degrees(18.04)).toBe("+18°");
  });
  it("draws the part of a circle between two angles", () => {
    expect(sector(0, 90, 10)).toBe("M0 0L0.00 -10.00A10 10 0 0 1 10.00 -0.00Z");
    expect(sector(0, -90, 10)).toBe("M0 0L0.00 -10.00A10 10 0 0 0 -10.00 -0.00Z");
    expect(sector(0, 270, 10)).toContain("0 1 1");
  });
});
