import { useEffect, useRef } from "react";
import { mute } from "../../shell/keys";
import type { Chosen } from "./useChosen";
import type { Draft } from "./useDraft";
import type { Found } from "./useFindings";
import type { Steps } from "./useSteps";

/** useWriteKeys is the keyboard of a page; what it does stands in its key map. */
export function useWriteKeys(on: {
  draft: Draft;
  chosen: Chosen;
  steps: Steps;
  found: Found;
  write: () => void;
  play: () => void;
  map: () => void;
}) {
  const onKey = useRef<(e: KeyboardEvent) => void>(() => undefined);
  onKey.current = (e) => {
    const { chosen, steps, found } = on;
    const rows = on.draft.view.rows;
    const editable = on.draft.meta.editable;
    const t = e.target as HTMLElement;
    const ctrl = e.ctrlKey || e.metaKey;
    // In a field that has something in it, Ctrl Z is the field's own.
    if (ctrl && e.key.toLowerCase() === "z" && editable && !(t.closest?.("input, textarea") && (t as HTMLInputElement).value)) {
      e.preventDefault();
      (document.activeElement as HTMLElement)?.blur?.();
      steps.back(e.shiftKey);
      return;
    }
    if (t.closest?.("input, textarea, select, [role=dialog], [role=menu]") || ctrl || mute(e)) return;
    const go = (i: number) => chosen.select(rows[Math.max(0, Math.min(rows.length - 1, i))]?.step.id);
    const onButton = t.closest?.("button, a");
    const { at } = chosen;
    if (e.altKey && (e.key === "ArrowUp" || e.key === "ArrowDown") && editable) steps.shift(e.key === "ArrowDown" ? 1 : -1);
    else if (e.key === "ArrowDown") go(at + 1);
    else if (e.key === "ArrowUp") go(at - 1);
    else if (e.key === "PageDown") go(at + 12);
    else if (e.key === "PageUp") go(at - 12);
    else if (e.key === "Home") go(0);
    else if (e.key === "End") go(rows.length - 1);
    else if (e.key === "Enter" && !onButton && editable && at >= 0) chosen.setOpened(true);
    else if (e.key === "Escape") chosen.setOpened(false);
    else if (e.key.toLowerCase() === "n" && editable) on.write();
    else if (e.key === "Delete" && !onButton && editable) steps.remove();
    else if (e.key === ".") found.next(1);
    else if (e.key === ",") found.next(-1);
    else if (e.key.toLowerCase() === "m" && editable) {
      const f = found.heads[found.at];
      if (f) found.mend(f, 0);
    } else if (e.key === " " && !onButton) on.play();
    else if (e.key === "?") on.map();
    else return;
    e.preventDefault();
  };
  useEffect(() => {
    const h = (e: KeyboardEvent) => onKey.current(e);
    window.addEventListener("keydown", h);
    return () => window.removeEventListener("keydown", h);
  }, []);
}
