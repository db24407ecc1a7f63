import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Failure, type S } from "../../api/client";
import { takeEdits } from "../../drafts/takeEdits";
import { Drive } from "../../drawing/Drive";
import { say } from "../../shell/toast";
import type { Mistake } from "./mistakes";
import { filmOf } from "./queries";

/** Pair shows the look that tells a mistake: how it looks right, and how once it was made; its author may have both printed beside the step. */
export function Pair({
  m,
  revision,
  version,
  editable,
  onPrinted,
}: {
  m: Mistake;
  revision: number;
  version: number;
  editable: boolean;
  onPrinted: () => void;
}) {
  const { data } = useQuery(filmOf(revision, m.id, version));
  const [busy, setBusy] = useState(false);
  const tells = data?.tells;
  const frame = tells && data.frames.find((f) => f.step === tells.step && f.sure);
  if (!tells || !frame) return null;
  const focus = tells.shafts.filter((s) => s !== "crank" || tells.shafts.length === 1);
  const print = async (on: boolean) => {
    setBusy(true);
    try {
      const r = await ask(api.GET("/api/revisions/{revision}", { params: { path: { revision } } }));
      const step = r.view.rows.find((row) => row.step.id === tells.step)?.step;
      if (!step) throw new Error("That step is no longer on the page.");
      await takeEdits(revision, version, [{ op: "set", step: { ...step, pair: on ? m.id : undefined } as S["Step"] }]);
      say(on ? `Both are printed beside step ${tells.number}. Ctrl Z in Write takes it back.` : "They are printed no more");
      onPrinted();
    } catch (e) {
      say((e as Failure).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <div className="mt-2.5 border-t border-rule pt-2">
      <p className="font-[650]">What tells it, at step {tells.number}</p>
      <div className="drill-pair mt-1">
        <figure>
          <Drive drawing={data.drawing} state={frame.right} still focus={focus} className="h-full w-full" />
          <figcaption>
            <b className="text-held">✓</b> So it looks right
          </figcaption>
        </figure>
        <figure className="wrong">
          <Drive drawing={data.drawing} state={frame.wrong} still focus={focus} className="h-full w-full" />
          <figcaption>
            <b className="text-clash">✕</b> So it looks then
          </figcaption>
        </figure>
      </div>
      {(editable || tells.printed) && (
        <label className="mt-1.5 flex items-center gap-2 text-small">
          <input
            type="checkbox"
            className="tick"
            checked={!!tells.printed}
            disabled={busy || !editable}
            onChange={(e) => print(e.target.checked)}
          />
          Print both beside step {tells.number} on the job sheet
        </label>
      )}
    </div>
  );
}
