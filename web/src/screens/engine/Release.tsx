import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api, ask, type Failure } from "../../api/client";
import { reproof, whoAmI } from "../../api/queries";
import { stateWord } from "../../shell/states";
import { say } from "../../shell/toast";
import type { SheetDraft } from "./useSheet";

/** Release leads to the review of a draft, where it is read and put into use. */
export function Release({ draft }: { draft: SheetDraft }) {
  const { meta } = draft.view;
  if (meta.state !== "draft") return null;
  return (
    <Link
      data-release
      to="/engines/$code/review"
      params={{ code: meta.code }}
      className={`button slim no-underline ${meta.mayRelease ? "solid" : ""}`}
    >
      {meta.mayRelease ? "Put into use" : "Review"}
      {meta.asked ? <span className="ml-1.5">{meta.asked} open</span> : null}
    </Link>
  );
}

/** Reproof is the strip that shows the proof of a code's procedures under way, and then what it found. */
export function Reproof({ code }: { code: string }) {
  const client = useQueryClient();
  const { data: who } = useQuery(whoAmI);
  const { data } = useQuery({ ...reproof(code), enabled: who?.roles.some((r) => r !== "reader") ?? false });
  const [hidden, setHidden] = useState<number>();
  if (!data || hidden === data.id) return null;
  const running = data.state === "waiting" || data.state === "running";
  const worse = data.rows.filter((r) => r.after > r.before);
  const other = data.rows.filter((r) => r.after <= r.before && r.says.length > 0);
  return (
    <section aria-label="Proof of the procedures" className="flex-none border-b border-rule bg-(--white) px-4 py-1.5">
      <div className="flex items-center gap-3">
        <span aria-live="polite" className="font-[650]">
          {running
            ? `Proving procedures again: ${data.done} of ${data.total}`
            : data.state === "cancelled"
              ? `Stopped after ${data.done} of ${data.total} procedures`
              : data.state === "failed"
                ? "The proof could not be finished"
                : `${data.total} procedure${data.total === 1 ? "" : "s"} proved against this sheet`}
        </span>
        {running && (
          <span className="h-[5px] w-[220px] bg-film">
            <span className="block h-full bg-marking" style={{ width: `${data.total ? (data.done / data.total) * 100 : 0}%` }} />
          </span>
        )}
        {!running && (
          <span className={worse.length ? "font-[650] text-clash" : "text-ink-2"}>
            {worse.length
              ? `✕ ${worse.length} now blocked`
              : other.length
                ? `△ ${other.length} with something new to check`
                : "✓ nothing new found"}
          </span>
        )}
        <span className="ml-auto flex gap-1">
          {running && (
            <button
              type="button"
              className="button quiet slim"
              onClick={async () => {
                await ask(api.DELETE("/api/engines/{code}/reproof", { params: { path: { code } } })).catch((e: Failure) =>
                  say(e.message),
                );
                client.invalidateQueries({ queryKey: ["reproof", code] });
              }}
            >
              Stop
            </button>
          )}
          {!running && (
            <button type="button" className="button quiet slim" onClick={() => setHidden(data.id)}>
              Hide
            </button>
          )}
        </span>
      </div>
      {[...worse, ...other].length > 0 && (
        <ul className="max-h-[120px] overflow-auto text-small">
          {[...worse, ...other].map((r) => (
            <li key={r.revision} className="border-t border-rule py-1">
              <Link to="/revisions/$revision" params={{ revision: String(r.revision) }} className="font-[600]">
                {r.title}
              </Link>{" "}
              <span className="text-ink-2">
                r{r.number} {stateWord(r.state)}:
              </span>{" "}
              {r.says.slice(0, 3).join(" ")}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
