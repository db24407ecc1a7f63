import { useRef, useState } from "react";
import { api, ask, Failure, me, type S } from "../../api/client";
import { when } from "../../shell/rows";
import { Wrong } from "../../shell/Wrong";
import { Names, Trial } from "./Say";

type Remark = S["Remark"];

const kinds: Record<Remark["kind"], string> = {
  question: "asks",
  remark: "remarks",
  "must-change": "says this must be changed",
  suggestion: "suggests",
};
const acts: Record<S["Answer"]["act"], string> = {
  reply: "",
  settle: "settled it",
  reopen: "opened it again",
  take: "took it",
  decline: "did not take it",
  waive: "waived it",
};

/** act does something with a remark and says what went wrong, if anything did. */
export async function act(id: number, what: S["Answered"]["act"], body = ""): Promise<string> {
  try {
    await ask(
      api.POST("/api/remarks/{remark}/answers", { params: { path: { remark: id } }, body: { act: what, body, client: me } }),
    );
    return "";
  } catch (e) {
    return e instanceof Failure ? e.message : "That did not work.";
  }
}

/** Thread is a remark with what was answered, and what the person may do with it. */
export function Thread({ m, onDone }: { m: Remark; onDone: () => void }) {
  const [body, setBody] = useState("");
  const [open, setOpen] = useState(false);
  const [trouble, setTrouble] = useState("");
  const text = useRef<HTMLTextAreaElement>(null);
  const done = m.state !== "open";
  const run = async (what: S["Answered"]["act"]) => {
    const t = await act(m.id, what, body.trim());
    setTrouble(t);
    if (t) return;
    setBody("");
    setOpen(false);
    onDone();
  };
  const withReason = (what: S["Answered"]["act"], wants: string) => {
    if (body.trim()) return run(what);
    setOpen(true);
    setTrouble(wants);
    requestAnimationFrame(() => text.current?.focus());
  };
  return (
    <article
      className="border-b border-rule py-2.5"
      data-remark={m.id}
      data-state={m.state}
      aria-label={`${m.by} ${kinds[m.kind]}`}
    >
      <header className="flex items-baseline gap-2">
        <b className="font-[650]">{m.by}</b>
        <span className={m.kind === "must-change" && !done ? "font-semibold text-clash" : "text-ink-2"}>{kinds[m.kind]}</span>
        {done && <span className="text-held">✓ {m.state}</span>}
        <time className="ml-auto text-fine text-ink-2" dateTime={m.at}>
          {when(m.at)}
        </time>
      </header>
      {m.place === "phase" && <p className="text-small text-ink-2">About the phase {m.part}</p>}
      {m.place === "drawing" && <p className="text-small text-ink-2">About the {m.quoted} on the drawing</p>}
      {m.place === "words" && <p className="text-small text-ink-2">About “{m.part}”</p>}
      {m.changed && <p className="text-small text-ink-2">The step said then: {m.quoted}</p>}
      {m.line && <p className="my-1 border border-edge bg-(--white) px-2 py-1 font-mono text-small">{m.line}</p>}
      {m.effect && <Trial trial={{ effect: m.effect }} />}
      {m.body && <p className="whitespace-pre-line">{m.body}</p>}
      {m.answers.map((a, i) => (
        <div key={i} className="mt-1.5 border-l-2 border-rule pl-2.5">
          <span className="flex items-baseline gap-2">
            <b className="font-[650]">{a.by}</b>
            <span className="text-ink-2">{acts[a.act]}</span>
            <time className="ml-auto text-fine text-ink-2" dateTime={a.at}>
              {when(a.at)}
            </time>
          </span>
          {a.body && <span className="block whitespace-pre-line">{a.body}</span>}
        </div>
      ))}
      {open && (
        <>
          <textarea
            ref={text}
            className="field mt-2"
            rows={2}
            autoFocus
            maxLength={4000}
            aria-label={`Answer to ${m.by}`}
            value={body}
            onChange={(e) => setBody(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) {
                e.preventDefault();
                run("reply");
              }
              if (e.key === "Escape") {
                e.stopPropagation();
                setOpen(false);
              }
            }}
          />
          <Names
            text={body}
            onTake={(v) => {
              setBody(v);
              text.current?.focus();
            }}
          />
        </>
      )}
      <Wrong says={trouble} className="mt-1" />
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        {m.mayTake && (
          <button type="button" className="button" onClick={() => run("take")}>
            Take it
          </button>
        )}
        {open ? (
          <button type="button" className="button solid" disabled={!body.trim()} onClick={() => run("reply")}>
            Answer
          </button>
        ) : (
          (m.maySettle || m.mayReopen || m.state === "open") && (
            <button type="button" className="button quiet !px-0" onClick={() => setOpen(true)}>
              Answer…
            </button>
          )
        )}
        {m.mayTake && (
          <button type="button" className="button quiet" onClick={() => withReason("decline", "Say why, then press again.")}>
            Do not take it
          </button>
        )}
        {m.maySettle && m.kind !== "suggestion" && (
          <button type="button" className="button quiet" onClick={() => run("settle")}>
            Settled
          </button>
        )}
        {m.maySettle && m.kind === "suggestion" && m.mine && (
          <button type="button" className="button quiet" onClick={() => run("settle")}>
            Take it back
          </button>
        )}
        {m.mayWaive && (
          <button
            type="button"
            className="button quiet"
            onClick={() => withReason("waive", "Say why it may stay as it is, then press again: it stands in the record.")}
          >
            Waive it
          </button>
        )}
        {m.mayReopen && (
          <button type="button" className="button quiet" onClick={() => run("reopen")}>
            Open again
          </button>
        )}
      </div>
    </article>
  );
}
