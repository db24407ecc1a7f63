import { Dialog } from "radix-ui";
import { useState } from "react";
import { api, ask, Failure, type S } from "../api/client";
import { say } from "./toast";
import { Wrong } from "./Wrong";

/** Withdraw takes a release back, with the reason that every sheet of it carries from then on. */
export default function Withdraw({ meta, onDone }: { meta: S["RevisionMeta"]; onDone: () => Promise<unknown> }) {
  const [open, setOpen] = useState(false);
  const [trouble, setTrouble] = useState("");
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger className="button quiet slim">Withdraw…</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog" aria-describedby={undefined}>
          <Dialog.Title className="text-head">Withdraw revision {meta.number}</Dialog.Title>
          <form
            className="mt-3"
            onSubmit={async (e) => {
              e.preventDefault();
              try {
                await ask(
                  api.POST("/api/revisions/{revision}/withdraw", {
                    params: { path: { revision: meta.id } },
                    body: { reason: String(new FormData(e.currentTarget).get("reason")) },
                  }),
                );
                setOpen(false);
                say(`Revision ${meta.number} is withdrawn`);
                await onDone();
              } catch (err) {
                setTrouble(err instanceof Failure ? err.message : "That did not work. Nothing was withdrawn.");
              }
            }}
          >
            <p className="text-ink-2">
              Nobody is to work by it any more: its job sheet says so across every page, at once. Nothing comes in its place until
              the next revision is released. It cannot be brought back.
            </p>
            <label className="label mt-3" htmlFor="withdrawn-why">
              Why? Readers see this on the sheet.
            </label>
            <textarea id="withdrawn-why" name="reason" required rows={3} autoFocus className="field" maxLength={1000} />
            <Wrong says={trouble} />
            <div className="mt-3 flex justify-end gap-2">
              <Dialog.Close className="button quiet">Cancel</Dialog.Close>
              <button type="submit" className="button solid">
                Withdraw it
              </button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
