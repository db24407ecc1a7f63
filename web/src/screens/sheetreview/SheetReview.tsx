import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, ask, Failure, type S } from "../../api/client";
import { sheetReview } from "../../api/queries";
import { useAddress } from "../../shell/address";
import { Cell } from "../../shell/Cell";
import { cap } from "../../shell/cap";
import { KeyMap } from "../../shell/KeyMap";
import { mute } from "../../shell/keys";
import { when } from "../../shell/rows";
import { stateWord } from "../../shell/states";
import { Trouble, Waiting } from "../../shell/Trouble";
import { say } from "../../shell/toast";
import { useLive } from "../../shell/useLive";
import { useTitle } from "../../shell/useTitle";
import { Wrong } from "../../shell/Wrong";
import { Change } from "../review/Beside";
import { Return } from "../review/Return";
import { Say } from "../review/Say";
import { Thread } from "../review/Thread";

const keys = [
  ["J K", "Next or previous thing"],
  ["R", "Read, or unread again"],
  ["C", "Ask or say"],
  ["Enter", "To the thing on the sheet"],
  ["?", "This map"],
];

/** SheetReview is what a draft of an engine sheet changes, thing by thing, what one has read of it, and what was said. */
export function SheetReview() {
  const { code } = useParams({ from: "/inside/engines/$code/review" });
  const { data, error, refetch } = useQuery(sheetReview(code));
  const client = useQueryClient();
  const navigate = useNavigate();
  const [met, setMet] = useAddress<string>("on", "");
  const [saying, setSaying] = useState<S["Said"]["kind"]>();
  const [map, setMap] = useState(false);
  const [trouble, setTrouble] = useState("");
  const list = useRef<HTMLOListElement>(null);
  useTitle(data && `Review, engine sheet ${data.meta.number}, ${code}`);
  const news = useCallback(() => {
    client.invalidateQueries({ queryKey: ["sheet review", code] });
    client.invalidateQueries({ queryKey: ["engine", code] });
  }, [client, code]);
  useLive(code, news);
  const go = useCallback(
    (thing: string) => {
      setMet(thing);
      setSaying(undefined);
      requestAnimationFrame(() => {
        const el = list.current?.querySelector<HTMLElement>(`[data-thing="${CSS.escape(thing)}"]`);
        el?.focus({ preventScroll: true });
        el?.scrollIntoView({ block: "nearest" });
      });
    },
    [setMet],
  );
  const mark = useCallback(
    async (thing: string) => {
      const c = data?.changes.find((v) => v.thing === thing);
      if (!data || !c) return;
      try {
        const now = await ask(
          api.POST("/api/engines/{code}/readings", {
            params: { path: { code } },
            body: { version: data.meta.version, things: [thing], unread: !c.unread },
          }),
        );
        client.setQueryData(sheetReview(code).queryKey, now);
        client.invalidateQueries({ queryKey: ["engine", code] });
        setTrouble("");
      } catch (e) {
        setTrouble(e instanceof Failure ? e.message : "That was not kept. It is still unread.");
        news();
      }
    },
    [client, code, data, news],
  );
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const t = e.target as HTMLElement;
      if (t.closest?.("input, textarea, select, [role=dialog], [role=menu]") || e.ctrlKey || e.metaKey || e.altKey || mute(e))
        return;
      const things = data?.changes.map((c) => c.thing) ?? [];
      const k = e.key.toLowerCase();
      const by = k === "j" || e.key === "ArrowDown" ? 1 : k === "k" || e.key === "ArrowUp" ? -1 : 0;
      if (by && things.length > 0) {
        const now = things.indexOf(met);
        go(things[((now < 0 && by < 0 ? 0 : now) + by + things.length) % things.length]);
      } else if (k === "r" && met && !e.repeat) mark(met);
      else if (k === "c") setSaying("question");
      else if (e.key === "?") setMap(true);
      else if (e.key === "Escape" && saying) setSaying(undefined);
      else if (e.key === "Enter" && met && !t.closest?.("button, a"))
        navigate({ to: "/engines/$code", params: { code }, search: { on: met } });
      else return;
      e.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [data, met, go, mark, saying, navigate, code]);
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const left = data.changes.filter((c) => c.unread).length;
  const said = data.remarks.filter((m) => (m.part ?? "") === met);
  const elsewhere = data.remarks.filter((m) => m.state === "open" && (m.part ?? "") !== met);
  const met_ = data.changes.find((c) => c.thing === met);
  return (
    <main id="main" className="flex h-full flex-col">
      <div className="grid flex-none grid-cols-[auto_minmax(0,1fr)_auto_auto] border-b border-ink bg-(--white) max-md:flex max-md:flex-wrap">
        <Cell name="Engine code">
          <Link to="/engines/$code" params={{ code }} className="no-underline hover:underline">
            {code}
          </Link>
        </Cell>
        <Cell name="Why" may="go">
          <h1 className="truncate text-lead" title={data.meta.reason}>
            {data.meta.reason || `Engine sheet ${data.meta.number}`}
          </h1>
        </Cell>
        <Cell name="Engine sheet">
          {data.meta.number} <span className="font-normal text-ink-2">{data.askedBy ? "to be looked at" : "draft"}</span>
        </Cell>
        <Cell name="Blocks its use">
          <span className={data.meta.blocking ? "text-clash" : "text-held"}>{data.meta.blocking || "nothing"}</span>
        </Cell>
      </div>
      <KeyMap keys={keys} open={map} onOpenChange={setMap} />
      <div className="flex min-h-0 flex-1 max-lg:flex-col max-lg:overflow-auto">
        <div className="flex min-h-0 min-w-0 flex-1 flex-col max-lg:min-h-fit">
          <div className="flex flex-none flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-4 py-2.5">
            <h2 className="text-lead">
              {data.changes.length === 0
                ? "Nothing has changed"
                : data.against
                  ? `${data.changes.length} thing${data.changes.length === 1 ? "" : "s"} changed since sheet ${data.against}`
                  : "The first sheet of this code"}
            </h2>
            <span className="text-ink-2" role="status">
              {data.changes.length > 0 &&
                (left === 0 ? "You have read all of it as it stands now" : `${left} of ${data.changes.length} to read`)}
            </span>
            <span className="ml-auto flex flex-wrap items-center gap-2">
              <button type="button" className="button quiet slim" onClick={() => setMap(true)}>
                Keys
              </button>
              <Link to="/engines/$code" params={{ code }} className="button quiet slim no-underline">
                To the sheet
              </Link>
              {data.mayAsk && <Ask code={code} onDone={news} onTrouble={setTrouble} />}
              {data.mayReturn && (
                <Return
                  name={`sheet ${data.meta.number}`}
                  open={data.remarks.filter((m) => m.kind === "must-change" && m.state === "open").length}
                  look="button quiet slim"
                  onReturn={(points) =>
                    ask(api.POST("/api/engines/{code}/return", { params: { path: { code } }, body: { points } }))
                  }
                  onDone={news}
                />
              )}
            </span>
          </div>
          <Wrong says={trouble} className="px-4 py-1" />
          <div className="scroller min-h-0 flex-1 overflow-auto max-lg:overflow-visible">
            <ol ref={list} aria-label="Things that change">
              {data.changes.map((c) => {
                const on = c.thing === met;
                const open = data.remarks.filter((m) => m.part === c.thing && m.state === "open").length;
                return (
                  // biome-ignore lint/a11y/useKeyWithClickEvents: the things are walked with J and K, see the key map
                  <li
                    key={c.thing}
                    data-thing={c.thing}
                    data-on={on}
                    tabIndex={-1}
                    onClick={() => !on && go(c.thing)}
                    className="review-row border-b border-rule px-4 py-2"
                  >
                    <div className="flex items-baseline gap-3">
                      <b className="font-[650]">{cap(c.name)}</b>
                      {c.kind !== "changed" && <span className={c.kind === "gone" ? "text-clash" : "text-ink-2"}>{c.kind}</span>}
                      {open > 0 && <span className="text-small font-semibold text-marking">{open} open</span>}
                      <span className={`ml-auto text-small ${c.unread ? "font-semibold text-marking" : "text-ink-2"}`}>
                        {c.unread ? "not read yet" : "read"}
                      </span>
                    </div>
                    {(on || c.parts.length <= 6 ? c.parts : c.parts.slice(0, 4)).map((p) => (
                      <Change key={p.what} part={p} />
                    ))}
                    {!on && c.parts.length > 6 && (
                      <span className="text-small text-ink-2">and {c.parts.length - 4} more values</span>
                    )}
                    {on && (
                      <div className="review-asks !ml-0">
                        <span>{c.unread ? "It counts once you say so." : "Read as it stands now."}</span>
                        <button
                          type="button"
                          className="button"
                          onClick={(e) => {
                            e.stopPropagation();
                            mark(c.thing);
                          }}
                        >
                          {c.unread ? "Read" : "Not read"} <span className="key max-md:hidden pointer-coarse:hidden">R</span>
                        </button>
                      </div>
                    )}
                  </li>
                );
              })}
            </ol>
            {data.changes.length === 0 && (
              <p className="px-4 py-6 text-ink-2">
                The draft says what sheet {data.against} says. There is nothing to put into use.
              </p>
            )}
          </div>
        </div>
        <aside
          aria-label="What was said, and what is left"
          className="scroller w-[400px] flex-none overflow-auto border-l border-rule bg-film px-4 py-3 max-lg:w-full max-lg:overflow-visible max-lg:border-t max-lg:border-l-0"
        >
          <h3 className="text-lead">{met_ ? cap(met_.name) : "The sheet as a whole"}</h3>
          {data.askedBy && !met_ && (
            <p className="text-small text-ink-2">
              {data.askedBy} asked for it to be looked at, {when(data.askedAt ?? "")}.
            </p>
          )}
          {said.map((m) => (
            <Thread key={m.id} m={m} onDone={news} />
          ))}
          {!saying ? (
            <button type="button" className="button mt-3" onClick={() => setSaying("question")}>
              Ask or say{met_ ? "" : " of the sheet"}…
            </button>
          ) : (
            <Say
              key={met}
              of={code}
              about={{ step: "", thing: met_ && { ref: met, name: met_.name } }}
              kind={saying}
              onKind={setSaying}
              onSaid={() => {
                setSaying(undefined);
                news();
              }}
              onCancel={() => setSaying(undefined)}
            />
          )}
          {elsewhere.length > 0 && (
            <section className="mt-5">
              <h3 className="border-b border-ink pb-0.5 text-body">Open elsewhere</h3>
              {elsewhere.map((m) => (
                <button
                  key={m.id}
                  type="button"
                  className="flex w-full gap-2 border-b border-rule py-1 text-left text-small hover:bg-marking-wash"
                  onClick={() => go(m.part ?? "")}
                >
                  <span className="flex-none text-ink-2">{m.quoted || "The sheet"}</span>
                  <span className="min-w-0 truncate">
                    <b className="font-semibold">{m.by}</b> {m.body}
                  </span>
                </button>
              ))}
            </section>
          )}
          <section className="mt-5">
            <h3 className="border-b border-ink pb-0.5 text-body">
              {data.touches.length
                ? `Touches ${data.touches.length} page${data.touches.length === 1 ? "" : "s"}`
                : "Touches no page"}
            </h3>
            <ul className="text-small">
              {data.touches.map((p) => (
                <li key={p.revision} className="border-b border-rule py-1">
                  <Link to="/revisions/$revision" params={{ revision: String(p.revision) }} className="font-[600]">
                    {p.title}
                  </Link>{" "}
                  <span className="text-ink-2">
                    r{p.number} {stateWord(p.state)}: {p.why.join(", ")}
                  </span>
                </li>
              ))}
            </ul>
          </section>
          <PutIntoUse data={data} code={code} onDone={() => navigate({ to: "/engines/$code", params: { code } })} />
        </aside>
      </div>
    </main>
  );
}

/** PutIntoUse says what keeps the sheet out of use, or puts it into use. */
function PutIntoUse({ data, code, onDone }: { data: S["SheetReview"]; code: string; onDone: () => void }) {
  const client = useQueryClient();
  const [trouble, setTrouble] = useState("");
  if (data.changes.length === 0) return null;
  return (
    <section className="mt-5">
      <h3 className="border-b border-ink pb-0.5 text-body">Put into use</h3>
      {data.meta.mayRelease ? (
        <>
          <p className="mt-1.5 text-small text-ink-2">
            In use, this sheet never changes again. Its pages are proved against it in the background, and the latches of those on
            review that it touches open again.
          </p>
          <Wrong says={trouble} className="mt-2" />
          <button
            type="button"
            className="button solid mt-2"
            data-put
            onClick={async () => {
              try {
                await ask(
                  api.POST("/api/engines/{code}/release", { params: { path: { code } }, body: { version: data.meta.version } }),
                );
                say(`Sheet ${data.meta.number} of ${code} is in use`);
                client.invalidateQueries();
                onDone();
              } catch (e) {
                setTrouble(e instanceof Failure ? e.message : "That did not work. Nothing was put into use.");
                client.invalidateQueries({ queryKey: ["sheet review", code] });
              }
            }}
          >
            Put sheet {data.meta.number} into use
          </button>
        </>
      ) : (
        <p className="mt-1.5 text-small text-ink-2">Not yet: {data.meta.whyNot}.</p>
      )}
    </section>
  );
}

function Ask({ code, onDone, onTrouble }: { code: string; onDone: () => void; onTrouble: (t: string) => void }) {
  return (
    <button
      type="button"
      className="button slim"
      onClick={async () => {
        try {
          await ask(api.POST("/api/engines/{code}/ask", { params: { path: { code } } }));
          say("Those who put sheets into use find it on their desks");
          onTrouble("");
        } catch (e) {
          onTrouble(e instanceof Failure ? e.message : "That did not work.");
        }
        onDone();
      }}
    >
      Ask for it to be looked at
    </button>
  );
}
