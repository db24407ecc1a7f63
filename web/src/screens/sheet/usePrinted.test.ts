import { expect, test } from "vitest";
import { edges, inCss } from "./usePrinted";

test("texts are strings of a stylesheet whatever is in them", () => {
  expect(inCss('Belt "A" \\ chain')).toBe('"Belt \\"A\\" \\\\ chain"');
  expect(inCss("two\nlines")).toBe('"two lines"');
});

test("every page names the sheet and its own number", () => {
  const css = edges("TQ4-18P", "Renew } the belt", "4 draft");
  expect(css).toContain('content: "TQ4-18P" "\\2003" "Renew } the belt"');
  expect(css).toContain('counter(page) " of " counter(pages)');
});
