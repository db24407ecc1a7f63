import { Dialog } from "radix-ui";
import { useState } from "react";
import { Failure } from "../../api/client";
import { say } from "../../shell/toast";
import { Wrong } from "../../shell/Wrong";

/** Return sends a draft, of a page or of an engine sheet, back to its author with what is to be mended. */
export function Return({
  name,
  open: demands,
  look,
  note,
  onReturn,
  onDone,
}: {
  /** what is returned, as in “Return revision 5 to its author” */
  name: string;
  /** how many points are open already */
  open: number;
  look: string;
  /** what comes of it */
  note?: string;
  onReturn: (points: string[]) => Promise<unknown>;
  onDone: () => void;
}) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const [trouble, setTrouble] = useState("");
  const points = text.split("\n").filter((l) => l.trim());
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger className={look}>Return it to its author…</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog" aria-describedby={undefined}>
          <Dialog.Title className="text-head">Return {name} to its author</Dialog.Title>
          <form
            className="mt-3"
            onSubmit={async (e) => {
              e.preventDefault();
              try {
                await onReturn(points);
                setOpen(false);
                setText("");
                setTrouble("");
                say("It is returned: its author finds the points on their desk");
                onDone();
              } catch (err) {
                setTrouble(err instanceof Failure ? err.message : "That did not work. What you wrote is kept.");
              }
            }}
          >
            <label className="label" htmlFor="points">
              What is to be mended, a line each. It stays open until you say it is settled.
            </label>
            <textarea id="points" rows={5} className="field" autoFocus value={text} onChange={(e) => setText(e.target.value)} />
            <p className="mt-1 text-small text-ink-2">
              {demands > 0
                ? `${demands} point${demands === 1 ? " is" : "s are"} open already and go${demands === 1 ? "es" : ""} along. `
                : ""}
              {note}
            </p>
            <Wrong says={trouble} />
            <div className="mt-3 flex justify-end gap-2">
              <Dialog.Close className="button quiet">Cancel</Dialog.Close>
              <button type="submit" className="button solid" disabled={points.length + demands === 0}>
                Return it
              </button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
