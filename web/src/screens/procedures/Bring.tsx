import { Dialog } from "radix-ui";
import { useState } from "react";
import { api, ask, Failure, type S } from "../../api/client";
import { say } from "../../shell/toast";

/** Said is what somebody has answered about a file. */
export interface Said {
  sheet?: "ours";
  anew?: boolean;
}

/** bring reads a latch file in and gives its draft. */
export const bring = (file: File, said: Said) =>
  ask(
    api.POST("/api/import", {
      params: { query: said },
      body: file as unknown as string,
      bodySerializer: (b) => b as unknown as BodyInit,
      headers: { "Content-Type": "application/octet-stream" },
    }),
  );

/** Asked is a file the server asks about, with what it says. */
export interface Asked {
  file: File;
  said: Said;
  title: string;
  field: string;
  changes: string[];
}

/** askedOf is the question in a refusal, undefined where it is none. */
export function askedOf(file: File, said: Said, e: unknown): Asked | undefined {
  if (!(e instanceof Failure) || e.status !== 409) return undefined;
  const p = e.body as S["Problem"] | undefined;
  if (p?.field !== "sheet" && p?.field !== "file") return undefined;
  return { file, said, title: p.title, field: p.field, changes: p.changes ?? [] };
}

/** Bring asks what is to become of a file that says something else than what is there, and reads it in so. */
export function Bring({
  asked,
  onAsk,
  onDone,
}: {
  asked: Asked;
  onAsk: (a: Asked | undefined) => void;
  onDone: (revision: number) => void;
}) {
  const [busy, setBusy] = useState(false);
  const sheet = asked.field === "sheet";
  const go = async () => {
    const said: Said = sheet ? { ...asked.said, sheet: "ours" } : { ...asked.said, anew: true };
    setBusy(true);
    try {
      const r = await bring(asked.file, said);
      onAsk(undefined);
      onDone(r.revision);
    } catch (e) {
      const next = askedOf(asked.file, said, e);
      onAsk(next);
      if (!next) say(e instanceof Failure ? e.message : "The file could not be read.");
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog.Root open onOpenChange={(o) => !o && onAsk(undefined)}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog" aria-describedby={undefined}>
          <Dialog.Title className="text-head">
            {sheet ? "Another engine sheet" : "Here already"}: {asked.file.name}
          </Dialog.Title>
          <p className="mt-3">{asked.title}</p>
          {asked.changes.length > 0 && (
            <ul className="mt-2 max-h-[38vh] overflow-y-auto border-y border-rule py-2" aria-label="What differs">
              {asked.changes.map((c) => (
                <li key={c} className="py-0.5">
                  {c}
                </li>
              ))}
            </ul>
          )}
          {sheet && (
            <p className="mt-2 text-ink-2">
              To have the file’s sheet instead, read the same file in under Engines: it becomes the next draft of the sheet.
            </p>
          )}
          <div className="mt-4 flex justify-end gap-2">
            <Dialog.Close className="button quiet">Cancel</Dialog.Close>
            <button type="button" className="button solid" disabled={busy} onClick={go} autoFocus>
              {sheet ? "Read it in with our sheet" : "As a procedure of its own"}
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
