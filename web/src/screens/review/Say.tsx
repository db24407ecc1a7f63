import { useQuery } from "@tanstack/react-query";
import { useEffect, useId, useRef, useState } from "react";
import { api, ask, Failure, type S } from "../../api/client";
import { colleagues, verbs } from "../../api/queries";
import { day } from "../../shell/days";
import { Wrong } from "../../shell/Wrong";

type Kind = S["Said"]["kind"];

const kinds: [Kind, string, string][] = [
  ["question", "Ask", "Your own latch stays open, and nothing is released, until you are content with the answer."],
  ["remark", "Remark", "It keeps nothing open."],
  ["must-change", "Must change", "No latch but the author’s closes until you say it is settled."],
  ["suggestion", "Suggest a line", "The line is proved before its author sees it, and taken with a key."],
];

/** What is said of a draft of an engine sheet keeps it out of use. */
const ofSheet: Partial<Record<Kind, string>> = {
  question: "The sheet stays out of use until you are content with the answer.",
  "must-change": "The sheet stays out of use until you say it is settled.",
};

/** About is what is spoken of: the page, a step, words quoted from it, or a thing of a sheet. */
export interface About {
  step: string;
  quote?: string;
  /** a thing of the drawing or of the sheet, by list and id, and its name */
  thing?: { ref: string; name: string };
  /** the line a suggestion begins with */
  line?: string;
  gone?: boolean;
}

/** Say is where one asks, remarks, demands and suggests, of a revision or of the draft of a code’s engine sheet. What is half typed stays in the window, for each step or thing. */
export function Say({
  of,
  about,
  kind,
  onKind,
  onSaid,
  onCancel,
}: {
  /** the id of a revision, or an engine code */
  of: number | string;
  about: About;
  kind: Kind;
  onKind: (k: Kind) => void;
  onSaid: () => void;
  onCancel: () => void;
}) {
  const revision = typeof of === "number" ? of : 0;
  const kept = `say ${of} ${about.thing?.ref ?? about.step}`;
  const [body, setBody] = useState(() => sessionStorage.getItem(kept) ?? "");
  const [line, setLine] = useState(() => sessionStorage.getItem(`${kept} line`) ?? about.line ?? "");
  const [behind, setBehind] = useState(false);
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const [trial, setTrial] = useState<{ effect?: S["Effect"]; problem?: string }>();
  const text = useRef<HTMLTextAreaElement>(null);
  const box = useRef<HTMLFormElement>(null);
  // Where it opens it is in sight, whatever stands above it.
  useEffect(() => {
    box.current?.scrollIntoView({ block: "nearest" }); // it gives a promise, which an effect must not
  }, []);
  const lineId = useId();
  const bodyId = useId();
  const [phase, setPhase] = useState("");
  const { data: catalogue } = useQuery({ ...verbs, enabled: about.step === "" && !!revision });
  const suggests = kind === "suggestion" && about.step !== "" && !about.gone;
  useEffect(() => {
    if (body) sessionStorage.setItem(kept, body);
    else sessionStorage.removeItem(kept);
    if (line && line !== about.line) sessionStorage.setItem(`${kept} line`, line);
    else sessionStorage.removeItem(`${kept} line`);
  }, [kept, body, line, about.line]);
  // The line is tried as it is typed: what it reads as, and what it would raise and settle.
  useEffect(() => {
    if (!suggests || !line.trim()) {
      setTrial(undefined);
      return;
    }
    let old = false;
    const timer = setTimeout(async () => {
      try {
        const r = await ask(
          api.POST("/api/revisions/{revision}/remarks", {
            params: { path: { revision } },
            body: { kind: "suggestion", place: "step", step: about.step, body: "", line, behind, trial: true },
          }),
        );
        if (!old) setTrial({ effect: r.effect });
      } catch (e) {
        if (!old) setTrial({ problem: e instanceof Failure ? e.message : "The line could not be tried." });
      }
    }, 250);
    return () => {
      old = true;
      clearTimeout(timer);
    };
  }, [suggests, revision, about.step, line, behind]);
  const send = async () => {
    if (busy) return;
    setBusy(true);
    setTrouble("");
    try {
      const said = {
        kind,
        ...placed(about, phase, suggests, !revision),
        body,
        line: suggests ? line : undefined,
        behind: suggests ? behind : undefined,
      };
      await ask<unknown>(
        typeof of === "number"
          ? api.POST("/api/revisions/{revision}/remarks", { params: { path: { revision: of } }, body: said })
          : api.POST("/api/engines/{code}/remarks", { params: { path: { code: of } }, body: said }),
      );
      sessionStorage.removeItem(kept);
      sessionStorage.removeItem(`${kept} line`);
      setBody("");
      onSaid();
    } catch (e) {
      setTrouble(e instanceof Failure ? e.message : "That did not work. What you wrote is kept.");
    } finally {
      setBusy(false);
    }
  };
  const offered = kinds.filter(([k]) => k !== "suggestion" || (about.step !== "" && !about.gone));
  return (
    <form
      ref={box}
      className="mt-3 border border-edge bg-(--white) p-2.5"
      aria-label="Ask or say"
      onKeyDown={(e) => {
        if (e.key === "Escape") {
          e.stopPropagation();
          onCancel();
        }
        if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) {
          e.preventDefault();
          send();
        }
      }}
      onSubmit={(e) => {
        e.preventDefault();
        send();
      }}
    >
      <fieldset className="flex flex-wrap gap-1">
        <legend className="sr-only">What it is</legend>
        {offered.map(([k, name]) => (
          <label
            key={k}
            className={`cursor-pointer rounded-[2px] border px-2 py-0.5 text-small has-[:focus-visible]:outline-2 has-[:focus-visible]:outline-marking ${k === kind ? "border-marking bg-marking-wash font-semibold text-marking" : "border-transparent text-ink-2"}`}
          >
            <input type="radio" name="kind" className="sr-only" checked={k === kind} onChange={() => onKind(k)} />
            {name}
          </label>
        ))}
      </fieldset>
      {about.thing && (
        <p className="mt-1.5 text-small text-ink-2">
          About the {about.thing.name}
          {revision ? " on the drawing" : ""}
        </p>
      )}
      {!!revision && about.step === "" && !about.thing && (
        <label className="mt-2 flex items-center gap-2 text-small text-ink-2">
          About
          <select className="field slim !w-auto" value={phase} onChange={(e) => setPhase(e.target.value)}>
            <option value="">the page</option>
            {catalogue?.phases.map((p) => (
              <option key={p.id} value={p.id}>
                the phase {p.name}
              </option>
            ))}
          </select>
        </label>
      )}
      {about.quote && !suggests && <p className="mt-1.5 text-small text-ink-2">About “{about.quote}”</p>}
      {suggests && (
        <>
          <label className="label mt-2" htmlFor={lineId}>
            The line as you would have it
          </label>
          <textarea
            id={lineId}
            className="field font-mono"
            rows={2}
            value={line}
            autoFocus
            maxLength={2000}
            onChange={(e) => setLine(e.target.value)}
            aria-invalid={!!trial?.problem}
            aria-describedby={`${lineId} trial`}
          />
          <label className="mt-1 flex items-center gap-1.5 text-small">
            <input type="checkbox" checked={behind} onChange={(e) => setBehind(e.target.checked)} />
            as a new step behind it
          </label>
          <Trial id={`${lineId} trial`} trial={trial} />
        </>
      )}
      <label className={suggests ? "label mt-2" : "sr-only"} htmlFor={bodyId}>
        {suggests ? "Why (may be left out)" : (offered.find(([k]) => k === kind)?.[1] ?? "")}
      </label>
      <textarea
        id={bodyId}
        ref={text}
        className={`field ${suggests ? "" : "mt-2"}`}
        rows={suggests ? 2 : 3}
        value={body}
        maxLength={4000}
        autoFocus={!suggests}
        placeholder={suggests ? "" : "@ names somebody"}
        onChange={(e) => setBody(e.target.value)}
      />
      <Names
        text={body}
        onTake={(v) => {
          setBody(v);
          text.current?.focus();
        }}
      />
      <Wrong says={trouble} />
      <div className="mt-2 flex items-center gap-2">
        <button
          type="submit"
          className="button solid whitespace-nowrap"
          disabled={busy || (suggests ? !trial?.effect : !body.trim())}
        >
          {suggests ? "Suggest it" : kind === "question" ? "Ask" : kind === "must-change" ? "Demand it" : "Say it"}
        </button>
        <button type="button" className="button quiet" onClick={onCancel}>
          Close
        </button>
        <span className="ml-auto text-right text-fine text-ink-2">
          {(revision ? undefined : ofSheet[kind]) ?? kinds.find(([k]) => k === kind)?.[2]}
        </span>
      </div>
    </form>
  );
}

/** placed is what is spoken of: the page, a phase of it, a thing on the drawing, a step, or words of one. */
function placed(about: About, phase: string, suggests: boolean, sheet: boolean): Pick<S["Said"], "place" | "step" | "part"> {
  if (about.thing) return { place: sheet ? "thing" : "drawing", part: about.thing.ref };
  if (about.step === "") return phase ? { place: "phase", part: phase } : { place: "page" };
  if (about.quote && !suggests) return { place: "words", step: about.step, part: about.quote };
  return { place: "step", step: about.step };
}

/** Trial is what came of trying a suggested line. */
export function Trial({ id, trial }: { id?: string; trial?: { effect?: S["Effect"]; problem?: string } }) {
  const e = trial?.effect;
  return (
    <div id={id} aria-live="polite" className="mt-1 min-h-[18px] text-small">
      {trial?.problem && <span className="text-clash">✕ {trial.problem}</span>}
      {e && (
        <>
          <span className="block">Reads: {e.sentence}</span>
          {e.new.length === 0 && e.settled.length === 0 && <span className="text-held">✓ proved: nothing new is found</span>}
          {e.new.map((f) => (
            <span key={f} className={`block ${e.blocks ? "text-clash" : ""}`}>
              {e.blocks ? "✕" : "△"} would be found: {f}
            </span>
          ))}
          {e.settled.map((f) => (
            <span key={f} className="block text-held">
              ✓ settles: {f}
            </span>
          ))}
        </>
      )}
    </div>
  );
}

/** Names offers whom one may mean behind an @ at the end of a text. */
export function Names({ text, onTake }: { text: string; onTake: (v: string) => void }) {
  const at = /(?:^|[\s(,;:])@([\p{L}\p{M} '’-]{0,40})$/u.exec(text);
  const { data } = useQuery({ ...colleagues, enabled: !!at });
  if (!at || !data) return null;
  const said = at[1].toLowerCase();
  const fit = data.filter((c) => c.name.toLowerCase().startsWith(said) && c.name.toLowerCase() !== said).slice(0, 6);
  if (fit.length === 0) return null;
  return (
    <ul className="mt-1 border border-rule bg-(--white)" aria-label="People">
      {fit.map((c) => (
        <li key={c.id}>
          <button
            type="button"
            className="flex w-full gap-2 px-2 py-1 text-left text-small hover:bg-marking-wash focus-visible:bg-marking-wash"
            onClick={() => onTake(`${text.slice(0, text.length - at[1].length)}${c.name} `)}
          >
            <b className="font-semibold">{c.name}</b>
            <span className="text-ink-2">
              {c.roles.join(", ")}
              {c.away && `, away until ${day(c.away)}`}
            </span>
          </button>
        </li>
      ))}
    </ul>
  );
}
