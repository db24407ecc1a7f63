import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { Popover } from "radix-ui";
import { useState } from "react";
import { api, ask, type Failure } from "../../api/client";
import { reproof, touches, whoAmI } from "../../api/queries";
import { type Moved, MovedOn, movedOn } from "../../shell/MovedOn";
import { say } from "../../shell/toast";
import type { SheetDraft } from "./useSheet";
import { Wrong } from "../../shell/Wrong";

/** Release shows what a draft changes and whom it touches, and puts it into use. */
export function Release({ draft }: { draft: SheetDraft }) {
  const { meta } = draft.view;
  const client = useQueryClient();
  const { data } = useQuery({ ...touches(meta.code), enabled: meta.state === "draft" });
  const [trouble, setTrouble] = useState("");
  const [moved, setMoved] = useState<Moved>();
  const [open, setOpen] = useState(false);
  if (meta.state !== "draft") return null;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger data-release className={`button !min-h-[22px] ${meta.mayRelease ? "solid" : ""}`}>
        {meta.mayRelease ? "Put into use" : "What it touches"}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="float z-50 max-h-[70vh] w-[420px] overflow-auto p-4" align="end" sideOffset={6}>
          <p className="text-lead font-[650]">Sheet {meta.number}</p>
          <p className="text-small text-ink-2">{meta.reason}</p>
          {meta.inUse > 0 && (
            <>
              <p className="mt-3 font-[650]">Changed against sheet {meta.inUse}</p>
              <p className="text-small">{data?.changes.length ? data.changes.join(", ") : "Nothing yet."}</p>
              <p className="mt-3 font-[650]">
                {data?.procedures.length
                  ? `Touches ${data.procedures.length} procedure${data.procedures.length === 1 ? "" : "s"}`
                  : "Touches no procedure"}
              </p>
              <ul className="text-small">
                {data?.procedures.map((p) => (
                  <li key={p.revision} className="border-t border-rule py-1">
                    <Link to="/revisions/$revision" params={{ revision: String(p.revision) }} className="font-[600]">
                      {p.title}
                    </Link>{" "}
                    <span className="text-ink-2">
                      r{p.number} {p.state}: {p.why.join(", ")}
                    </span>
                  </li>
                ))}
              </ul>
            </>
          )}
          <Wrong says={trouble} className="mt-3" />
          {moved && <MovedOn moved={moved} what="The sheet" />}
          {meta.mayRelease ? (
            <>
              <p className="mt-3 text-small text-ink-2">
                In use, this sheet never changes again. Its procedures are proved against it in the background, and the latches of
                those on review that it touches open again.
              </p>
              <button
                type="button"
                className="button solid mt-2"
                data-put
                onClick={async () => {
                  try {
                    const v = await ask(
                      api.POST("/api/engines/{code}/release", {
                        params: { path: { code: meta.code } },
                        body: { version: moved?.version ?? meta.version },
                      }),
                    );
                    draft.put(v);
                    client.invalidateQueries({ queryKey: ["reproof", meta.code] });
                    client.invalidateQueries({ queryKey: ["engine", meta.code] });
                    setOpen(false);
                    say(`Sheet ${meta.number} of ${meta.code} is in use`);
                  } catch (e) {
                    const later = movedOn(e as Failure);
                    setMoved(later);
                    setTrouble(later ? "" : (e as Failure).message);
                    if (later) client.invalidateQueries({ queryKey: ["engine", meta.code] });
                  }
                }}
              >
                Put sheet {meta.number} into use
              </button>
            </>
          ) : (
            <p className="mt-3 text-small text-ink-2">Not yet: {meta.whyNot}.</p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
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
              className="button quiet !min-h-[22px]"
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
            <button type="button" className="button quiet !min-h-[22px]" onClick={() => setHidden(data.id)}>
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
                r{r.number} {r.state}:
              </span>{" "}
              {r.says.slice(0, 3).join(" ")}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
