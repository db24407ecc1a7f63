import { useState } from "react";
import { api, ask, type Failure, type S } from "../../api/client";
import { takeEdits } from "../../drafts/takeEdits";
import { say } from "../../shell/toast";
import type { Mistake } from "./mistakes";

/** Keep accepts that a mistake gets through, with the reason; it is written at the step it is made at, and falls away when that changes. */
export function Keep({
  m,
  family,
  revision,
  version,
  editable,
  onKept,
}: {
  m: Mistake;
  family?: S["DrillFamily"];
  revision: number;
  version: number;
  editable: boolean;
  onKept: () => void;
}) {
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  const [all, setAll] = useState(false);
  const [busy, setBusy] = useState(false);
  const write = async (change: (accept: NonNullable<S["Step"]["accept"]>) => NonNullable<S["Step"]["accept"]>, then: string) => {
    setBusy(true);
    try {
      const r = await ask(api.GET("/api/revisions/{revision}", { params: { path: { revision } } }));
      const step = r.view.rows.find((row) => row.step.id === m.madeAt)?.step;
      if (!step) throw new Error("That step is no longer on the page.");
      await takeEdits(revision, version, [{ op: "set", step: { ...step, accept: change(step.accept ?? []) } }]);
      say(then);
      setOpen(false);
      onKept();
    } catch (e) {
      say((e as Failure).message);
    } finally {
      setBusy(false);
    }
  };
  if (m.accepted)
    return (
      <div className="mt-2.5 border-t border-rule pt-2">
        <p>
          <b className="font-[650]">Accepted:</b> {m.accepted}
        </p>
        {editable && (
          <button
            type="button"
            className="button quiet slim mt-1 -ml-2"
            disabled={busy}
            onClick={() =>
              write((a) => a.filter((v) => v.rule !== m.acceptAs && v.rule !== m.acceptAllAs), "It is accepted no more")
            }
          >
            Accept it no more
          </button>
        )}
      </div>
    );
  if (!open)
    return (
      <p className="mt-2.5 border-t border-rule pt-2">
        <button type="button" className="button quiet slim -ml-2" onClick={() => setOpen(true)}>
          Accept with a reason…
        </button>
      </p>
    );
  return (
    <form
      className="mt-2.5 border-t border-rule pt-2"
      onSubmit={(e) => {
        e.preventDefault();
        const rule = all ? m.acceptAllAs : m.acceptAs;
        if (reason.trim())
          write((a) => [...a.filter((v) => v.rule !== rule), { rule, reason: reason.trim() }], "Accepted, with the reason");
      }}
    >
      <label className="block font-[650]" htmlFor="drill-reason">
        Why it may get through
      </label>
      <textarea
        id="drill-reason"
        className="field mt-1 w-full"
        rows={2}
        maxLength={400}
        required
        value={reason}
        // biome-ignore lint/a11y/noAutofocus: it was asked for
        autoFocus
        onChange={(e) => setReason(e.target.value)}
      />
      {family && (
        <label className="mt-1 flex items-center gap-2 text-small">
          <input type="checkbox" className="tick" checked={all} onChange={(e) => setAll(e.target.checked)} />
          All of “{family.name.toLowerCase()}” at step {m.number}
        </label>
      )}
      <div className="mt-1.5 flex gap-2">
        <button type="submit" className="button" disabled={busy || !reason.trim()}>
          Accept
        </button>
        <button type="button" className="button quiet" onClick={() => setOpen(false)}>
          Cancel
        </button>
      </div>
      <p className="mt-1 text-small text-ink-2">The reason stands on the sheet’s record, and falls away when the step changes.</p>
    </form>
  );
}
