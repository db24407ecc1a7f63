import { useNavigate } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import type { S } from "../../api/client";
import { say } from "../../shell/toast";
import { headsOf } from "./Side";
import type { Chosen } from "./useChosen";
import type { Draft } from "./useDraft";

/** useFindings is what the proof found, the one somebody is at, and what is done about it. */
export function useFindings(draft: Draft, { select }: Chosen) {
  const { edit, look, unlook, post, view } = draft;
  const navigate = useNavigate();
  const [at, setAt] = useState(-1);
  const [from, setFrom] = useState(0);
  // What was mended is not offered again before the page is proved anew: pressed twice, its mend would stand there twice.
  const [mended, setMended] = useState<ReadonlySet<string>>(new Set());
  useEffect(() => {
    if (post.waiting === 0) setMended((m) => (m.size > 0 ? new Set() : m));
  }, [post.waiting]);
  const heads = headsOf(view.findings).filter((f) => !mended.has(f.id));
  const mend = (f: S["Finding"], k: number) => {
    const m = f.mends[k];
    if (!m || !draft.meta.editable || mended.has(f.id)) return;
    setMended((was) => new Set(was).add(f.id));
    edit(m.edits);
    say(`${m.label}: done`);
    const target = m.edits[0]?.step?.id ?? m.edits[0]?.id ?? f.steps[0];
    if (target) select(target);
    setAt(-1);
  };
  const keep = (f: S["Finding"], reason: string) => {
    const row = view.rows.find((r) => r.step.id === f.steps[0]);
    if (row)
      edit([
        {
          op: "set",
          step: { ...row.step, accept: [...(row.step.accept ?? []).filter((a) => a.rule !== f.rule), { rule: f.rule, reason }] },
        },
      ]);
  };
  const next = (by: number) => {
    // Behind the last finding come the mistakes that the page needs to catch.
    if (by > 0 && at >= heads.length - 1 && (draft.meta.drill?.missed ?? 0) > 0) {
      navigate({ to: "/revisions/$revision/drill", params: { revision: String(draft.meta.id) }, search: { show: "needed" } });
      return;
    }
    if (!heads.length) return;
    const i = (at + by + heads.length) % heads.length;
    setAt(i);
    const s = heads[i].steps[0];
    if (s) select(s);
  };
  /** fromAt proves the page from another starting position, in turns of the crank. */
  const fromAt = (turns: number) => {
    setFrom(turns);
    if (turns) look({ from: turns });
    else unlook();
  };
  return { heads, at, setAt, mend, keep, next, from: draft.previewing ? from : 0, fromAt };
}

export type Found = ReturnType<typeof useFindings>;
