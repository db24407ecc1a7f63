import { Dialog } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import { api, ask, Failure, type S } from "../../api/client";
import { when } from "../../shell/rows";
import { say } from "../../shell/toast";
import { Wrong } from "../../shell/Wrong";

type Note = S["FieldNote"];

/** the largest photo, bytes, as the server has it */
const most = 5 << 20;

/** steps are the steps of a sheet by their id. */
const stepOf = (s: S["Sheet"], id: string) => s.phases.flatMap((p) => p.steps).find((t) => t.id === id);

/** NewFieldNote says what was wrong at a step, or of the sheet, with a photo. What is typed stays in the window until it is sent. */
export function NewFieldNote({
  sheet,
  step,
  onClose,
  onSaid,
}: {
  sheet: S["Sheet"];
  step: string;
  onClose: () => void;
  onSaid: () => void;
}) {
  const kept = `field note ${sheet.meta.id} ${step}`;
  const [body, setBody] = useState(() => sessionStorage.getItem(kept) ?? "");
  const [photo, setPhoto] = useState<File>();
  const [note, setNote] = useState<number>();
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const st = stepOf(sheet, step);
  const write = (v: string) => {
    setBody(v);
    if (v) sessionStorage.setItem(kept, v);
    else sessionStorage.removeItem(kept);
  };
  const send = async () => {
    setBusy(true);
    setTrouble("");
    try {
      let of = note;
      if (of === undefined) {
        const n = await ask(
          api.POST("/api/revisions/{revision}/notes", {
            params: { path: { revision: sheet.meta.id } },
            body: { step: step || undefined, body },
          }),
        );
        of = n.id;
        setNote(n.id); // sent again after a photo that failed, the note is there already
      }
      if (photo)
        await ask(
          api.PUT("/api/notes/{note}/photo", {
            params: { path: { note: of } },
            body: photo as unknown as string,
            bodySerializer: (b) => b as unknown as Blob,
            headers: { "Content-Type": "application/octet-stream" },
          }),
        );
      sessionStorage.removeItem(kept);
      say("Your field note is with whoever answers for this sheet");
      onSaid();
    } catch (e) {
      setTrouble(e instanceof Failure ? e.message : "That did not work. What you wrote is kept.");
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog.Root open onOpenChange={(v) => !v && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog" aria-describedby={undefined}>
          <Dialog.Title className="text-head">
            {st ? `What was wrong at step ${st.number}?` : "What was wrong with this sheet?"}
          </Dialog.Title>
          {st && <p className="mt-1 text-ink-2">{st.text}</p>}
          <form
            className="mt-3"
            onSubmit={(e) => {
              e.preventDefault();
              send();
            }}
          >
            <label className="label" htmlFor="field-note">
              What you found, on which engine, and what you did instead
            </label>
            <textarea
              id="field-note"
              rows={4}
              className="field"
              autoFocus
              required
              maxLength={4000}
              value={body}
              disabled={note !== undefined}
              onChange={(e) => write(e.target.value)}
            />
            <label className="label mt-3" htmlFor="field-photo">
              A photo, if there is one: JPEG, PNG or WebP, up to 5 MB
            </label>
            <input
              id="field-photo"
              type="file"
              accept="image/jpeg,image/png,image/webp"
              className="text-small"
              onChange={(e) => {
                const f = e.target.files?.[0];
                const large = !!f && f.size > most;
                setTrouble(
                  large ? `This photo has ${(f.size / 1048576).toFixed(1)} MB; 5 MB is the most. Choose a smaller one.` : "",
                );
                setPhoto(large ? undefined : f);
              }}
            />
            <Wrong says={trouble} className="mt-2" />
            <div className="mt-3 flex justify-end gap-2">
              <button type="button" className="button quiet" onClick={note === undefined ? onClose : onSaid}>
                {note === undefined ? "Cancel" : "Leave the photo out"}
              </button>
              <button type="submit" className="button solid" disabled={busy || !body.trim()}>
                {busy ? "Sending…" : "Send it"}
              </button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

const states: Record<Note["state"], string> = {
  open: "not answered yet",
  answered: "answered",
  point: "a point of the next draft",
  closed: "closed",
};

/** FieldNotes are what was said of the releases of a procedure, and what came of it: all of them for those who work on pages, one's own for readers. */
export function FieldNotes({ notes, sheet, onDone }: { notes: Note[]; sheet: S["Sheet"]; onDone: () => void }) {
  const here = useRef<HTMLElement>(null);
  useEffect(() => {
    if (location.hash === "#field-notes") here.current?.scrollIntoView();
  }, []);
  return (
    <section ref={here} id="field-notes" className="no-print mt-7" aria-label="Field notes">
      <h3 className="border-b border-ink pb-0.5 text-lead">Field notes</h3>
      {notes.map((n) => (
        <FieldNote key={n.id} n={n} sheet={sheet} onDone={onDone} />
      ))}
    </section>
  );
}

function FieldNote({ n, sheet, onDone }: { n: Note; sheet: S["Sheet"]; onDone: () => void }) {
  const [answer, setAnswer] = useState("");
  const [trouble, setTrouble] = useState("");
  const run = async (state: "answered" | "point" | "closed") => {
    try {
      await ask(api.POST("/api/notes/{note}/answer", { params: { path: { note: n.id } }, body: { state, answer } }));
      say(state === "point" ? "It is a point of the next draft" : "It is answered: its reader sees it");
      onDone();
    } catch (e) {
      setTrouble(e instanceof Failure ? e.message : "That did not work. What you wrote is kept.");
    }
  };
  const st = n.revision === sheet.meta.id ? stepOf(sheet, n.step ?? "") : undefined;
  return (
    <article id={`note-${n.id}`} className="border-b border-rule py-2.5" data-note={n.id} data-state={n.state}>
      <header className="flex items-baseline gap-2">
        <b className="font-[650]">{n.by}</b>
        <span className="text-ink-2">
          {n.step ? (st ? `at step ${st.number}` : `at a step of revision ${n.number}`) : `of revision ${n.number}`},{" "}
          {states[n.state]}
        </span>
        <time className="ml-auto text-fine text-ink-2" dateTime={n.at}>
          {when(n.at)}
        </time>
      </header>
      {n.quoted && (!st || st.text !== n.quoted) && <p className="text-small text-ink-2">It said: {n.quoted}</p>}
      <p className="whitespace-pre-line">{n.body}</p>
      {n.photo && (
        <a href={`/api/notes/${n.id}/photo`} target="_blank" rel="noreferrer" className="mt-1 inline-block">
          <img
            src={`/api/notes/${n.id}/photo`}
            alt={`What ${n.by} saw`}
            className="max-h-[220px] max-w-full border border-rule"
          />
        </a>
      )}
      {n.answer && (
        <div className="mt-1.5 border-l-2 border-rule pl-2.5">
          <b className="font-[650]">{n.answeredBy}</b>{" "}
          <span className="text-ink-2">{n.state === "closed" ? "closed it" : n.state === "point" ? "took it up" : ""}</span>
          <span className="block whitespace-pre-line">{n.answer}</span>
        </div>
      )}
      {n.mayAnswer && (
        <>
          <textarea
            className="field mt-2"
            rows={2}
            maxLength={4000}
            placeholder={`What ${n.by} is to read`}
            aria-label={`Answer to ${n.by}`}
            value={answer}
            onChange={(e) => setAnswer(e.target.value)}
          />
          <Wrong says={trouble} className="mt-1" />
          <div className="mt-1.5 flex flex-wrap gap-2">
            <button type="button" className="button" disabled={!answer.trim()} onClick={() => run("answered")}>
              Answer
            </button>
            <button type="button" className="button" disabled={!answer.trim()} onClick={() => run("point")}>
              A point of the next draft
            </button>
            <button type="button" className="button quiet" disabled={!answer.trim()} onClick={() => run("closed")}>
              Close it
            </button>
          </div>
        </>
      )}
    </article>
  );
}
