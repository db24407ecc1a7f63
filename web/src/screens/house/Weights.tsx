import { useDeferredValue, useMemo, useState } from "react";
import type { S } from "../../api/client";
import { cap } from "../../shell/cap";
import { type Rules, type Severity, weighs, withWeight } from "./rules";

const weights: [Severity, string][] = [
  ["blocks", "blocks"],
  ["should-fix", "should fix"],
  ["look", "check"],
];

/** Weights are all rules of pages and sheets with what each asks, by family. */
export function Weights({
  all,
  rules,
  holds,
  may,
  onChange,
}: {
  all: S["WeighedRule"][];
  rules: Rules;
  holds: Rules;
  may: boolean;
  onChange: (r: Rules) => void;
}) {
  const [text, setText] = useState("");
  const asked = useDeferredValue(text.trim().toLowerCase());
  const families = useMemo(() => {
    const out = new Map<string, S["WeighedRule"][]>();
    for (const w of all) {
      const name = (w.sheet ? "Engine sheets: " : "") + w.family;
      out.set(name, [...(out.get(name) ?? []), w]);
    }
    return [...out];
  }, [all]);
  const words = asked.split(/\s+/).filter(Boolean);
  const shown = families
    .map(
      ([name, ws]) => [name, ws.filter((w) => words.every((v) => `${name} ${w.doc} ${w.id}`.toLowerCase().includes(v)))] as const,
    )
    .filter(([, ws]) => ws.length > 0);
  return (
    <>
      <input
        type="search"
        className="field mb-2 max-w-[360px]"
        aria-label="Look for a rule"
        placeholder="Look for a rule: turns, belt, torque"
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      {shown.length === 0 && <p className="text-ink-2">No rule speaks of that.</p>}
      {shown.map(([name, ws]) => {
        const own = ws.filter((w) => weighs(rules, w) !== w.severity).length;
        return (
          <details key={name + (asked ? " found" : "")} className="house-family" open={asked !== ""}>
            <summary>
              {cap(name)} <span className="text-ink-2">{ws.length}</span>
              {own > 0 && <span className="ml-2 text-small text-marking">{own} weighed by the house</span>}
            </summary>
            <ul>
              {ws.map((w) => (
                <li key={w.id} className="house-weight" data-changed={weighs(rules, w) !== weighs(holds, w) || undefined}>
                  <span>
                    {cap(w.doc)} <span className="font-mono text-fine text-ink-3">{w.id.replace("sheet:", "")}</span>
                  </span>
                  <span role="radiogroup" aria-label={w.doc} className="house-three">
                    {weights.map(([s, says]) => (
                      <label
                        key={s}
                        data-on={weighs(rules, w) === s || undefined}
                        title={w.severity === s ? "what it weighs by itself" : undefined}
                      >
                        <input
                          type="radio"
                          name={`weight-${w.id}`}
                          className="sr-only"
                          disabled={!may}
                          checked={weighs(rules, w) === s}
                          onChange={() => onChange(withWeight(rules, w, s))}
                        />
                        {says}
                        {w.severity === s && weighs(rules, w) !== s && <span aria-hidden> ·</span>}
                      </label>
                    ))}
                  </span>
                </li>
              ))}
            </ul>
          </details>
        );
      })}
    </>
  );
}
