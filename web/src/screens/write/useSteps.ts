import { useCallback } from "react";
import type { S } from "../../api/client";
import { say } from "../../shell/toast";
import { aside } from "./aside";
import type { Chosen } from "./useChosen";
import type { Draft, Edit } from "./useDraft";

/** useSteps is what is done to the steps of a page: moved, taken out, written, undone. */
export function useSteps(draft: Draft, { at, select }: Chosen) {
  const { edit, undo } = draft;
  const rows = draft.view.rows;
  const move = useCallback(
    (step: string, after: string, phase: string) => edit([{ op: "move", id: step, after, phase }]),
    [edit],
  );
  const shift = (by: 1 | -1) => {
    const r = rows[at];
    const next = rows[at + by];
    if (!r || !next) return;
    move(r.step.id, by > 0 ? next.step.id : (rows[at - 2]?.step.id ?? ""), next.step.phase);
  };
  const remove = () => {
    const r = rows[at];
    if (!r) return;
    const next = rows[at + 1] ?? rows[at - 1];
    edit([{ op: "remove", id: r.step.id }]);
    select(next?.step.id);
    say(`Step ${at + 1} is removed. Ctrl Z brings it back.`);
  };
  /** add makes steps of what was read, in one edit; a note or a caution goes to the step above it. */
  const add = (readings: S["Reading"][], from: string) => {
    const edits: Edit[] = [];
    let after = from;
    let ahead: S["Reading"][] = [];
    for (const r of readings) {
      if (r.aside && r.ahead) {
        ahead.push(r); // it stands before the step it warns of
        continue;
      }
      const above = edits.find((e) => e.step?.id === after)?.step ?? rows.find((w) => w.step.id === after)?.step;
      if (r.aside && above) {
        const step = aside(above, r);
        const k = edits.findIndex((e) => e.step?.id === after);
        if (k >= 0) edits[k] = { ...edits[k], step };
        else edits.push({ op: "set", step });
        continue;
      }
      const fresh = ahead.reduce(aside, { ...r.step, id: crypto.randomUUID().slice(0, 13) });
      ahead = [];
      edits.push({ op: "insert", after, step: fresh });
      after = fresh.id;
    }
    // A caution whose step was left out stays, at the step above it.
    const last = edits.findLast((e) => e.step?.id === after)?.step ?? rows.find((w) => w.step.id === after)?.step;
    if (ahead.length > 0 && last) {
      const step = ahead.reduce(aside, last);
      const k = edits.findIndex((e) => e.step?.id === after);
      if (k >= 0) edits[k] = { ...edits[k], step };
      else edits.push({ op: "set", step });
    }
    if (edits.length) edit(edits);
    select(after || undefined);
    return after;
  };
  const back = async (redo: boolean) => {
    const step = await undo(redo);
    if (step) {
      select(step);
      say(redo ? "Done again" : "Undone");
    }
  };
  return { move, shift, remove, add, back };
}

export type Steps = ReturnType<typeof useSteps>;
