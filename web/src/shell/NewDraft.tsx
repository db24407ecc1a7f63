import { useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { api, ask, Failure, type S } from "../api/client";

/** NewDraft starts the next revision, from the one that holds or from an earlier release, or goes to the one that is open. */
export function NewDraft({
  meta,
  from,
  onDraft,
}: {
  meta: S["RevisionMeta"];
  /** the release it starts from, where that is not the one that holds */
  from?: { id: number; number: number };
  onDraft: (id: number) => void;
}) {
  const client = useQueryClient();
  const [trouble, setTrouble] = useState("");
  const open = meta.siblings.find((s) => s.state === "draft" || s.state === "on review");
  const next = Math.max(...meta.siblings.map((s) => s.number)) + 1;
  if (open && from) return null;
  if (open)
    return (
      <button type="button" className="button slim" onClick={() => onDraft(open.id)}>
        Go to revision {open.number}, {open.state}
      </button>
    );
  return (
    <Dialog.Root>
      <Dialog.Trigger className="button slim">{from ? "Start a draft from it" : `Start revision ${next}`}</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog" aria-describedby={undefined}>
          <Dialog.Title className="text-head">
            Start revision {next}
            {from && ` from revision ${from.number}`}
          </Dialog.Title>
          <form
            className="mt-3"
            onSubmit={async (e) => {
              e.preventDefault();
              try {
                const r = await ask(
                  api.POST("/api/procedures/{procedure}/drafts", {
                    params: { path: { procedure: meta.procedure } },
                    body: { reason: String(new FormData(e.currentTarget).get("reason")), from: from?.id },
                  }),
                );
                client.invalidateQueries();
                onDraft(r.revision);
              } catch (err) {
                setTrouble(err instanceof Failure ? err.message : "That did not work.");
              }
            }}
          >
            <label className="label" htmlFor="reason">
              Why is there a new revision? Readers see this.
            </label>
            <textarea id="reason" name="reason" required rows={3} autoFocus className="field" />
            {trouble && <p role="alert">{trouble}</p>}
            <div className="mt-3 flex justify-end gap-2">
              <Dialog.Close className="button quiet">Cancel</Dialog.Close>
              <button type="submit" className="button solid">
                Start it
              </button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
