import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { api, ask, Failure, type S } from "../api/client";
import { releasePlan } from "../api/queries";
import { day } from "./days";
import { type Moved, MovedOn, movedOn } from "./MovedOn";
import { say } from "./toast";
import { Wrong } from "./Wrong";

/** Release shows what the release of a revision changes for its readers, and releases it. */
export default function Release({ meta, onDone }: { meta: S["RevisionMeta"]; onDone: () => Promise<unknown> }) {
  const [open, setOpen] = useState(false);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger data-release className={`button slim ${meta.mayRelease ? "solid" : ""}`}>
        {meta.mayRelease ? "Release…" : "Ready to release"}
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog max-h-[86vh] w-[min(620px,94vw)] overflow-auto" aria-describedby={undefined}>
          <Plan meta={meta} onDone={onDone} onClose={() => setOpen(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Plan({ meta, onDone, onClose }: { meta: S["RevisionMeta"]; onDone: () => Promise<unknown>; onClose: () => void }) {
  const client = useQueryClient();
  const { data, error } = useQuery(releasePlan(meta.id, meta.version));
  const [trouble, setTrouble] = useState("");
  const [moved, setMoved] = useState<Moved>();
  const [busy, setBusy] = useState(false);
  return (
    <>
      <Dialog.Title className="text-head">
        Release revision {meta.number} of “{meta.title}”
      </Dialog.Title>
      {error && <Wrong says={error.message} className="mt-3" />}
      {!data && !error && <p className="mt-3 text-ink-2">Looking at what it changes…</p>}
      {data && (
        <dl className="release-plan mt-3">
          <dt>For readers of {meta.engine}</dt>
          <dd>
            {data.supersedes ? (
              <>
                It takes the place of revision {data.supersedes}, which has held since {day(data.holds ?? "")}.
              </>
            ) : (
              "Nothing holds now: readers find it for the first time."
            )}{" "}
            It holds from the moment you release it, on every screen and for every sheet printed from then on.
          </dd>
          {data.changes.length > 0 && (
            <>
              <dt>What changes</dt>
              <dd>
                <p className="font-[650]">{data.counted}</p>
                <ol className="max-h-[190px] overflow-auto text-small">
                  {data.changes.map((c) => (
                    <li key={c} className="border-t border-rule py-0.5">
                      {c}
                    </li>
                  ))}
                </ol>
              </dd>
            </>
          )}
          <dt>Signed by</dt>
          <dd>
            {data.latches.map((l) => (
              <p key={l.latch}>
                {l.by}{" "}
                <span className="text-ink-2">
                  {l.latch} latch: {readBy(l)}
                </span>
              </p>
            ))}
          </dd>
          {data.free.length > 0 && (
            <>
              <dt>Not run on the engine</dt>
              <dd>
                {data.free.length === 1 ? "Step" : "Steps"} {data.free.join(", ")}: free text or its author’s own words.
              </dd>
            </>
          )}
          {data.asked.length > 0 && (
            <>
              <dt>Still open</dt>
              <dd>
                {data.asked.map((m) => (
                  <p key={m.id} className="text-clash">
                    {m.by} {m.kind === "question" ? "asks" : "says it must be changed"}: {m.body}
                  </p>
                ))}
                <Link
                  to="/revisions/$revision/review"
                  params={{ revision: String(meta.id) }}
                  className="text-small"
                  onClick={onClose}
                >
                  To the review
                </Link>
              </dd>
            </>
          )}
        </dl>
      )}
      <Wrong says={trouble} className="mt-3" />
      {moved && <MovedOn moved={moved} what="The draft" />}
      <div className="mt-4 flex flex-wrap items-center justify-end gap-2">
        {data && !data.mayRelease && <span className="mr-auto text-small text-ink-2">Not yet: {data.whyNot}.</span>}
        <Dialog.Close className="button quiet">{data?.mayRelease ? "Cancel" : "Close"}</Dialog.Close>
        {data?.mayRelease && (
          <button
            type="button"
            className="button solid"
            disabled={busy}
            onClick={async () => {
              setBusy(true);
              try {
                await ask(
                  api.POST("/api/revisions/{revision}/release", {
                    params: { path: { revision: meta.id } },
                    body: { version: moved?.version ?? data.version },
                  }),
                );
                onClose();
                say(`Revision ${meta.number} is released${data.supersedes ? ` in place of revision ${data.supersedes}` : ""}`);
                client.invalidateQueries();
                await onDone();
              } catch (e) {
                const later = e instanceof Failure ? movedOn(e) : undefined;
                setMoved(later);
                setTrouble(later ? "" : e instanceof Failure ? e.message : "That did not work. Nothing was released.");
              }
              setBusy(false);
            }}
          >
            Release revision {meta.number}
          </button>
        )}
      </div>
    </>
  );
}

/** readBy says how whoever closed a latch came to have read the page. */
function readBy(l: S["SignedLatch"]) {
  const parts = [
    l.said && `${l.said} said to be read`,
    l.stood && `${l.stood} stood in view`,
    l.wrote && `${l.wrote} written`,
  ].filter(Boolean);
  return parts.join(", ") || "how it was read was not kept";
}
