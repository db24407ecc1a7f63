import { useCallback, useEffect, useState } from "react";
import type { Rules } from "./rules";

/** Plan is rules that somebody thinks of, over the version that held when they began. */
interface Plan {
  over: number;
  rules: Rules;
  /** past are the rules before each change, the newest last */
  past: Rules[];
}

const mostPast = 100;

function kept(key: string): Plan | undefined {
  try {
    return JSON.parse(sessionStorage.getItem(key) ?? "null") ?? undefined;
  } catch {
    return undefined;
  }
}

/** usePlan keeps the rules a lead thinks of in the window, so that leaving the screen loses nothing, and takes changes back one by one. Who is 0 for somebody who may not change them. */
export function usePlan(version: number, holds: Rules, who: number) {
  const key = `house-rules-${who}`;
  const [plan, setPlan] = useState<Plan>(() => (who ? kept(key) : undefined) ?? { over: version, rules: holds, past: [] });
  useEffect(() => {
    if (plan.past.length) sessionStorage.setItem(key, JSON.stringify(plan));
    else sessionStorage.removeItem(key);
  }, [plan, key]);
  const change = useCallback(
    (rules: Rules) => setPlan((p) => ({ ...p, rules, past: [...p.past.slice(-mostPast), p.rules] })),
    [],
  );
  const undo = useCallback(
    () => setPlan((p) => (p.past.length ? { ...p, rules: p.past[p.past.length - 1] as Rules, past: p.past.slice(0, -1) } : p)),
    [],
  );
  const drop = useCallback((over: number, rules: Rules) => setPlan({ over, rules, past: [] }), []);
  return { ...plan, changed: plan.past.length > 0, change, undo, drop };
}
