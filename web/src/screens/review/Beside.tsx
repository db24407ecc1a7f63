import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type ReactNode, useState } from "react";
import { api, ask, Failure, type S } from "../../api/client";
import { day, late } from "../../shell/days";
import { say } from "../../shell/toast";
import { Worded } from "../../shell/Worded";
import { Wrong } from "../../shell/Wrong";
import { EngineThen } from "./EngineThen";
import { Return } from "./Return";
import { type Line, type Part, weighs } from "./rows";
import { type About, Say } from "./Say";
import { Thread } from "./Thread";

/** Beside is what belongs to the line that is met: what changed of it, what was said; and what is left before a latch closes. */
export function Beside({
  data,
  line,
  about,
  against,
  saying,
  onPick,
  onSay,
  onNews,
  onUnread,
  onQuestions,
  onClose,
}: {
  data: S["Redlined"];
  line: Line | undefined;
  about: About;
  against: number;
  saying: S["Said"]["kind"] | undefined;
  onPick: (ref: string, name: string) => void;
  onSay: (kind?: S["Said"]["kind"]) => void;
  onNews: () => void;
  onUnread: () => void;
  onQuestions: (step: string) => void;
  onClose: (latch: string, seen?: number) => Promise<unknown>;
}) {
  const reads = !!data.reading;
  const met = line?.is === "step" ? line.key : "";
  const said = data.remarks.filter((m) => (m.step ?? "") === met);
  const elsewhere = data.remarks.filter((m) => m.state === "open" && (m.step ?? "") !== met);
  return (
    <>
      {line && line.is !== "fold" && <Heading line={line} />}
      {line?.is === "fold" && <h3 className="text-lead">{line.rows.length} steps as they were</h3>}
      {!line && <h3 className="text-lead">{reads ? "The page as a whole" : "What changed behind the steps"}</h3>}
      {line?.is === "step" && <Facts line={line} />}
      {line?.is !== "fold" && data.redline.rows.length > 0 && (
        <EngineThen data={data} against={against} step={met} onPick={reads ? onPick : undefined} />
      )}
      {said.map((m) => (
        <Thread key={m.id} m={m} onDone={onNews} />
      ))}
      {reads && !saying && (
        <button type="button" className="button mt-3" onClick={() => onSay("question")}>
          Ask or say{line?.is === "step" ? "" : " of the page"}…
        </button>
      )}
      {reads && saying && (
        <Say
          key={`${about.thing?.ref ?? about.step} ${about.quote ?? ""}`}
          of={data.meta.id}
          about={about}
          kind={saying === "suggestion" && (about.step === "" || about.gone) ? "question" : saying}
          onKind={onSay}
          onSaid={() => {
            onSay(undefined);
            onNews();
          }}
          onCancel={() => onSay(undefined)}
        />
      )}
      {elsewhere.length > 0 && (
        <Section name="Open elsewhere">
          <ul>
            {elsewhere.map((m) => (
              <li key={m.id}>
                <button
                  type="button"
                  className="flex w-full gap-2 border-b border-rule py-1 text-left text-small hover:bg-marking-wash"
                  onClick={() => onQuestions(m.step ?? "")}
                >
                  <span className="flex-none text-ink-2">
                    {m.number ? `Step ${m.number}` : m.step ? "Gone" : m.place === "drawing" ? "Drawing" : "Page"}
                  </span>
                  <span className="min-w-0 truncate">
                    <b className="font-semibold">{m.by}</b> {m.body || m.line}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </Section>
      )}
      {data.meta.latches.map((l) =>
        l.wants?.length ? (
          <Wants key={l.latch} mark={l} data={data} onUnread={onUnread} onQuestions={onQuestions} onClose={onClose} />
        ) : null,
      )}
      {data.meta.mayReturn && (
        <Return
          name={`revision ${data.meta.number}`}
          open={data.remarks.filter((m) => m.kind === "must-change" && m.state === "open").length}
          look="button quiet mt-3 !px-0 underline decoration-marking-edge underline-offset-2"
          note="Every closed latch opens, and it is a draft again."
          onReturn={(points) =>
            ask(api.POST("/api/revisions/{revision}/return", { params: { path: { revision: data.meta.id } }, body: { points } }))
          }
          onDone={onNews}
        />
      )}
      {(data.new.length > 0 || data.settled.length > 0) && (
        <Section name="Findings, before and after">
          <ul>
            {data.new.map((s) => (
              <Told key={s} bad>
                {s}
              </Told>
            ))}
            {data.settled.map((s) => (
              <Told key={s}>{s}</Told>
            ))}
          </ul>
        </Section>
      )}
      {line?.is !== "fold" && data.redline.rows.length > 0 && <Mistakes data={data} against={against} />}
      {data.redline.lists.length > 0 && (
        <Section name="Tools and parts">
          {data.redline.lists.map((p) => (
            <Change key={p.what} part={p} />
          ))}
        </Section>
      )}
      {data.redline.sheet.length > 0 && (
        <Section name="Engine sheet behind the page">
          {data.redline.sheet.map((p) => (
            <Change key={p.what} part={p} />
          ))}
        </Section>
      )}
      {!reads && data.new.length + data.settled.length + data.redline.lists.length + data.redline.sheet.length === 0 && !line && (
        <p className="mt-1 text-ink-2">No finding came or went, and the lists and the engine sheet are the same.</p>
      )}
    </>
  );
}

function Heading({ line }: { line: Line }) {
  if (line.is === "head") return <h3 className="text-lead">Title and preparation</h3>;
  if (line.is === "fold") return null;
  const r = line.row;
  return (
    <h3 className="text-lead">
      {r.now ? `Step ${r.now}` : `The earlier step ${r.was}`}
      {r.kind !== "same" && `: ${weighs(r)}`}
    </h3>
  );
}

/** Facts are what of a step changed, from what to what, and the latches that opens. */
function Facts({ line }: { line: Line & { is: "step" } }) {
  const parts = line.row.parts ?? [];
  const opens = [...new Set(parts.flatMap((p) => p.opens))];
  if (parts.length === 0) return <p className="mt-1 text-ink-2">{line.row.after}</p>;
  return (
    <>
      <p className="mt-1 text-ink-2">
        {opens.length > 3 ? "It opens every latch." : `It opens the ${opens.join(" and ")} latch${opens.length > 1 ? "es" : ""}.`}
      </p>
      <dl className="mt-2 grid grid-cols-[96px_1fr] gap-x-3 gap-y-1 text-small">
        {parts
          .filter((p) => p.what !== "step")
          .map((p) => (
            <div key={p.what} className="contents">
              <dt className="text-ink-2">{p.what}</dt>
              <dd>
                <Became part={p} />
              </dd>
            </div>
          ))}
      </dl>
    </>
  );
}

/** Change is one thing that changed, before and after. */
export function Change({ part }: { part: Part }) {
  return (
    <span className="mt-0.5 block text-small">
      <span className="text-ink-2">{part.what}: </span>
      <Became part={part} />
    </span>
  );
}

/** Became is what something was and is, word by word where that can be told. */
function Became({ part }: { part: Part }) {
  if (part.words) return <Worded words={part.words} />;
  return (
    <>
      {part.before && <del>{part.before}</del>}{" "}
      {part.after ? <ins>{part.after}</ins> : <span className="text-ink-2">nothing now</span>}
    </>
  );
}

/** Wants is what a latch wants before it closes, met or not, and the way to close it. */
function Wants({
  mark,
  data,
  onUnread,
  onQuestions,
  onClose,
}: {
  mark: S["LatchMark"];
  data: S["Redlined"];
  onUnread: () => void;
  onQuestions: (step: string) => void;
  onClose: (latch: string, seen?: number) => Promise<unknown>;
}) {
  const [trouble, setTrouble] = useState("");
  const met: Record<string, string> = {
    findings: "nothing blocks release",
    read: "all of it is read as it stands now",
    questions: "no question of yours is open",
    "must-changes":
      mark.latch === "author" ? "every point that must be changed has an answer" : "no point that must be changed is open",
  };
  const go: Record<string, () => void> = {
    read: onUnread,
    questions: () => onQuestions(data.remarks.find((m) => m.kind === "question" && m.mine && m.state === "open")?.step ?? ""),
    "must-changes": () => onQuestions(data.remarks.find((m) => m.kind === "must-change" && m.state === "open")?.step ?? ""),
  };
  const left = mark.wants?.some((w) => w.left > 0);
  return (
    <Section
      name={`Before the ${mark.latch} latch closes`}
      right={
        mark.due ? (
          <span className={`text-small ${late(mark.due) ? "font-semibold text-clash" : "text-ink-2"}`}>by {day(mark.due)}</span>
        ) : undefined
      }
    >
      <ul className="py-1">
        {mark.wants?.map((w) => (
          <li key={w.what} className="flex gap-2 py-0.5">
            <span aria-hidden className={w.left ? "text-clash" : "text-held"}>
              {w.left ? "✕" : "✓"}
            </span>
            {w.left === 0 ? (
              met[w.what]
            ) : w.what === "findings" ? (
              <Link activeOptions={{ exact: true }} to="/revisions/$revision" params={{ revision: String(data.meta.id) }}>
                {w.why}
              </Link>
            ) : (
              <button
                type="button"
                className="text-left underline decoration-marking-edge underline-offset-2 hover:decoration-marking"
                onClick={go[w.what]}
              >
                {w.why}
              </button>
            )}
          </li>
        ))}
        {!left && !mark.mayClose && mark.whyNot && (
          <li className="flex gap-2 py-0.5">
            <span aria-hidden className="text-clash">
              ✕
            </span>
            {mark.whyNot}
          </li>
        )}
      </ul>
      <Wrong says={trouble} className="mb-1.5" />
      {mark.mayClose && (
        <button
          type="button"
          className="button solid mt-1"
          onClick={async () => {
            try {
              await onClose(mark.latch);
              say(`The ${mark.latch} latch is closed`);
            } catch (e) {
              setTrouble(e instanceof Failure ? e.message : "That did not work.");
            }
          }}
        >
          Close the {mark.latch} latch
        </button>
      )}
    </Section>
  );
}

function Section({ name, right, children }: { name: string; right?: ReactNode; children: ReactNode }) {
  return (
    <section className="mt-5">
      <div className="flex items-baseline justify-between border-b border-ink pb-0.5">
        <h3 className="text-body">{name}</h3>
        {right}
      </div>
      {children}
    </section>
  );
}

/** Mistakes are those of the drill that the change lets through, and those that it catches now. */
function Mistakes({ data, against }: { data: S["Redlined"]; against: number }) {
  const { data: d } = useQuery({
    queryKey: ["drill", data.meta.id, "change", against, data.meta.version],
    queryFn: () =>
      ask(
        api.GET("/api/revisions/{revision}/drill/change", {
          params: { path: { revision: data.meta.id }, query: { against } },
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [all, setAll] = useState(false);
  if (!d?.was || d.lost.length + d.won.length === 0) return null;
  const most = all ? Number.POSITIVE_INFINITY : 6;
  const rest = Math.max(0, d.lost.length - most) + Math.max(0, d.won.length - most);
  const open = (m: S["DrillChanged"]) => (
    <Link
      to="/revisions/$revision/drill"
      params={{ revision: String(data.meta.id) }}
      search={{ show: "all", on: m.id }}
      className="link"
    >
      step {m.number}
    </Link>
  );
  return (
    <Section
      name="Mistakes, before and after"
      right={
        <span className="text-small text-ink-2">
          {d.was.caught} of {d.was.of}, now {d.now.caught} of {d.now.of}
        </span>
      }
    >
      <ul>
        {d.lost.slice(0, most).map((m) => (
          <Told key={m.id} bad>
            {m.what}, {open(m)}: {m.is}
            {m.was && <span className="text-ink-2">, was {m.was}</span>}
          </Told>
        ))}
        {d.won.slice(0, most).map((m) => (
          <Told key={m.id}>
            {m.what}, {open(m)}: {m.is}
            <span className="text-ink-2">, was {m.was}</span>
          </Told>
        ))}
      </ul>
      {rest > 0 && (
        <button type="button" className="button quiet slim -ml-2" onClick={() => setAll(true)}>
          {rest} more
        </button>
      )}
    </Section>
  );
}

function Told({ bad, children }: { bad?: boolean; children: ReactNode }) {
  return (
    <li className="flex gap-2 border-b border-rule py-1 text-small">
      <span aria-hidden className={bad ? "text-clash" : "text-held"}>
        {bad ? "✕" : "✓"}
      </span>
      <span>
        <span className="sr-only">{bad ? "new: " : "settled: "}</span>
        {children}
      </span>
    </li>
  );
}
