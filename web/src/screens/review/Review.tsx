import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useParams } from "@tanstack/react-router";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { S } from "../../api/client";
import { redline, whoAmI } from "../../api/queries";
import { useActions } from "../../shell/actions";
import { useAddress } from "../../shell/address";
import { KeyMap } from "../../shell/KeyMap";
import { mute } from "../../shell/keys";
import { stateWord } from "../../shell/states";
import { TitleBlock } from "../../shell/TitleBlock";
import { Trouble, Waiting } from "../../shell/Trouble";
import { say } from "../../shell/toast";
import { useClose } from "../../shell/useClose";
import { useLive } from "../../shell/useLive";
import { useSmall } from "../../shell/useSmall";
import { useTitle } from "../../shell/useTitle";
import { ChartHead, chartWidth, headHeight } from "../write/Chart";
import { Bottom, Nothing, ReadBar } from "./Bars";
import { Beside } from "./Beside";
import { columns, Overlay } from "./Overlay";
import { ReviewRow } from "./ReviewRow";
import { type Line, linesOf, type Row, stepsOf, stops } from "./rows";
import type { About } from "./Say";
import { act } from "./Thread";
import { here, useReading, useStanding } from "./useReview";

const keys = [
  ["J K", "Next or previous, what can do most first"],
  ["↓ ↑", "Next or previous on the page"],
  ["R", "Read, or unread again"],
  ["U", "Only what is not read"],
  ["C", "Ask or say; words you have marked are quoted"],
  ["S", "Suggest a line"],
  ["T", "Take the suggestion, as its author"],
  ["F", "Fold the steps that are as they were, or show them"],
  ["Enter", "Open a fold, or go to the step on the page"],
  ["Ctrl K", "Find or do"],
  ["?", "This map"],
];

/** the redline against what the person has read */
const sinceRead = -1;

/** Review is what changed, what one has read of it, and what was said. */
export function Review() {
  const id = Number(useParams({ from: "/inside/revisions/$revision/review" }).revision);
  const [against, setAgainst] = useAddress<number>("against", 0);
  const [met, setMet] = useAddress<string>("step", "");
  const { data, error, refetch } = useQuery(redline(id, against));
  const { data: me } = useQuery(whoAmI);
  const client = useQueryClient();
  const close = useClose(id, data?.meta.version);
  const navigate = useNavigate();
  const [same, setSame] = useState(false);
  const [only, setOnly] = useState(false);
  const [opened, setOpened] = useState(new Set<string>());
  const [map, setMap] = useState(false);
  const [saying, setSaying] = useState<{ kind: S["Said"]["kind"]; quote?: string; thing?: About["thing"] }>();
  const [hot, setHot] = useState<string>();
  const phone = useSmall("(max-width: 767px)");
  const list = useRef<HTMLOListElement>(null);
  const news = useCallback(() => {
    client.invalidateQueries({ queryKey: ["redline", id] });
  }, [client, id]);
  const others = useLive(id, news);
  const reads = !!data?.reading;
  const { unread, mark } = useReading(id, against, data);
  useTitle(data && `${reads ? "Review" : "Redline"}, ${data.meta.title}, ${data.meta.engine}, revision ${data.meta.number}`);
  const spoken = useMemo(
    () => new Set(data?.remarks.filter((m) => m.state === "open" || m.step === met).map((m) => m.step ?? "") ?? []),
    [data, met],
  );
  const lines = useMemo(
    // A first revision has nothing that is as it was.
    () =>
      data ? linesOf(data.redline, unread, spoken, { same: same || data.was.length === 0, unread: only, open: opened }) : [],
    [data, unread, spoken, same, only, opened],
  );
  const walkable = useMemo(() => stops(lines, reads), [lines, reads]);
  const line = lines.find((l) => l.key === met && l.is !== "head") ?? lines.find((l) => l.is === "head" && met === "head");
  const key = met === "head" ? "" : met;
  const focus = useCallback((k: string) => {
    requestAnimationFrame(() => {
      const el = list.current?.querySelector<HTMLElement>(`[data-line="${CSS.escape(k)}"]`);
      el?.focus({ preventScroll: true });
      el?.scrollIntoView({ block: "nearest" });
    });
  }, []);
  const go = useCallback(
    (l: Line | undefined) => {
      if (!l) return;
      setMet(l.is === "head" ? "head" : l.key);
      setSaying(undefined);
      focus(l.key);
      if (l.is === "step") here(id, l.key);
    },
    [setMet, focus, id],
  );
  // An address that names a step is opened at it.
  const opening = useRef(true);
  useEffect(() => {
    if (!opening.current || lines.length === 0) return;
    opening.current = false;
    if (met) focus(met === "head" ? "" : met);
  }, [lines, met, focus]);
  const walk = useCallback(
    (by: number, among: Line[] = walkable) => {
      if (among.length === 0) return;
      const now = among.findIndex((l) => (l.is === "head" ? "head" : l.key) === met);
      go(among[((now < 0 && by < 0 ? 0 : now) + by + among.length) % among.length]); // from nowhere, back is the last
    },
    [walkable, met, go],
  );
  // What stands in view long enough counts; moving on from it sooner does not.
  useStanding(line?.is === "step" ? unread.get(line.key) : undefined, mark);
  const unfold = useCallback(
    (l: Line & { is: "fold" }) => {
      setOpened((o) => new Set(o).add(l.key));
      const first = l.rows.find((r) => unread.has(r.step)) ?? l.rows[0];
      setMet(first.step);
      focus(first.step);
    },
    [unread, setMet, focus],
  );
  const toggle = useCallback(() => {
    if (!line || !reads) return;
    if (line.is === "fold") return unfold(line); // nobody has seen into it
    const steps = stepsOf(line);
    const open = steps.filter((s) => unread.has(s));
    if (open.length > 0) {
      mark(open);
      if (only) {
        const i = walkable.findIndex((l) => l.key === line.key);
        const next = walkable[i + 1] ?? walkable[i - 1]; // the line itself goes
        if (next) go(next);
      }
    } else mark(steps, "unread");
  }, [line, reads, unread, mark, only, walkable, go, unfold]);
  const speak = useCallback(
    (kind: S["Said"]["kind"]) => {
      if (!reads) return;
      const words = getSelection()?.toString().trim() ?? "";
      const within = getSelection()?.anchorNode?.parentElement?.closest<HTMLElement>("[data-line]");
      // Words are quoted from the step's own sentence.
      const own = line?.is === "step" && within?.dataset.line === key && (line.row.after ?? line.row.before)?.includes(words);
      setSaying({ kind, quote: words && own ? words : undefined });
    },
    [reads, key, line],
  );
  const take = useCallback(async () => {
    const m = data?.remarks.find((r) => r.mayTake && r.step === key);
    if (!m) return;
    const trouble = await act(m.id, "take");
    say(trouble || "The suggestion is taken: it is an edit of yours now");
    news();
  }, [data, key, news]);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const t = e.target as HTMLElement;
      if (t.closest?.("input, textarea, select, [role=dialog], [role=menu]") || e.ctrlKey || e.metaKey || e.altKey || mute(e))
        return;
      const k = e.key.toLowerCase();
      if (k === "j") walk(1);
      else if (k === "k") walk(-1);
      else if (e.key === "ArrowDown") walk(1, lines);
      else if (e.key === "ArrowUp") walk(-1, lines);
      else if (k === "r") {
        if (!e.repeat) toggle();
      } else if (k === "u" && reads) setOnly((v) => !v);
      else if (k === "c") speak("question");
      else if (k === "s") speak("suggestion");
      else if (k === "t") take();
      else if (k === "f") setSame((v) => !v);
      else if (e.key === "?") setMap(true);
      else if (e.key === "Escape" && saying) setSaying(undefined);
      else if (e.key === "Enter" && line && !t.closest?.("button, a")) {
        if (line.is === "fold") unfold(line);
        else if (line.is === "step" && line.row.now)
          navigate({ to: "/revisions/$revision", params: { revision: String(id) }, search: { step: line.key } });
      } else return;
      e.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [walk, toggle, speak, take, saying, line, lines, reads, id, navigate, unfold]);
  useActions(
    useMemo(
      () => [
        { name: "Next change", keys: "J", group: "Review", run: () => walk(1) },
        { name: "Previous change", keys: "K", group: "Review", run: () => walk(-1) },
        ...(reads
          ? [
              { name: "Mark as read, or unread again", keys: "R", group: "Review", run: toggle },
              {
                name: only ? "Show everything" : "Show only what is not read",
                keys: "U",
                group: "Review",
                run: () => setOnly(!only),
              },
              { name: "Ask or say", keys: "C", group: "Review", run: () => speak("question") },
              { name: "Suggest a line", keys: "S", group: "Review", run: () => speak("suggestion") },
            ]
          : []),
        {
          name: same ? "Fold the steps that are as they were" : "Show the steps that are as they were",
          keys: "F",
          group: "Review",
          run: () => setSame(!same),
        },
        { name: "Keys", keys: "?", run: () => setMap(true) },
      ],
      [walk, toggle, speak, same, only, reads],
    ),
  );
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const others_ = data.meta.siblings.filter((s) => s.id !== data.meta.id);
  const cols = columns(data.chart, data.was);
  const indent = phone ? 0 : chartWidth(cols.length);
  const about: About = {
    step: saying?.thing ? "" : key,
    thing: saying?.thing,
    quote: saying?.quote,
    line: line?.is === "step" ? asLine(line.row) : undefined,
    gone: line?.is === "step" && !line.row.now,
  };
  const beside = (
    <Beside
      data={data}
      line={line}
      about={about}
      against={against}
      onPick={(ref, name) => setSaying({ kind: "question", thing: { ref, name } })}
      saying={saying?.kind}
      onSay={(kind) => setSaying(kind ? { ...saying, kind } : undefined)}
      onNews={news}
      onUnread={() => {
        setOnly(true);
        go(lines.find((l) => (l.is === "fold" ? l.unread.length > 0 : unread.has(l.key))));
      }}
      onQuestions={(step) => {
        setOnly(false);
        setMet(step || "head");
        focus(step);
      }}
      onClose={close}
    />
  );
  return (
    <main id="main" className="flex h-full flex-col">
      <TitleBlock
        meta={data.meta}
        onClose={close}
        onRead={refetch}
        on="review"
        writes={!!me?.writes}
        right={
          <>
            {data.reading && <ReadBar data={data} unread={unread} />}
            <button type="button" className="button quiet slim" onClick={() => setMap(true)}>
              Keys
            </button>
          </>
        }
      />
      <KeyMap keys={keys} open={map} onOpenChange={setMap} />
      <div className="flex min-h-0 flex-1 max-lg:flex-col max-md:overflow-auto">
        <div className="flex min-h-0 min-w-0 flex-1 flex-col max-md:min-h-fit">
          <div className="flex flex-none flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-4 py-2.5">
            <h2 className="text-lead">{says(data)}</h2>
            <label className="flex items-center gap-1.5 text-ink-2">
              since
              <select
                className="field slim !w-auto"
                value={against === sinceRead ? sinceRead : (data.against?.id ?? 0)}
                onChange={(e) => {
                  setAgainst(Number(e.target.value));
                  setOnly(false);
                }}
              >
                {!data.against && against !== sinceRead && <option value={0}>its beginning</option>}
                {others_.map((s) => (
                  <option key={s.id} value={s.id}>
                    revision {s.number}, {stateWord(s.state)}
                  </option>
                ))}
                {reads && <option value={sinceRead}>I last read it</option>}
              </select>
            </label>
            <span className="text-ink-2">{byRisk(data, unread)}</span>
            <span className="ml-auto flex gap-1">
              {reads && (
                <button type="button" className="button quiet slim" aria-pressed={only} onClick={() => setOnly(!only)}>
                  {only ? "Show everything" : "Only not read"}
                </button>
              )}
              <button type="button" className="button quiet slim" aria-pressed={same} onClick={() => setSame(!same)}>
                {same ? "Fold the same" : "Show the same"}
              </button>
            </span>
          </div>
          <div className="scroller min-h-0 flex-1 overflow-auto max-md:overflow-visible">
            {!phone && cols.length > 0 && lines.length > 0 && (
              <div className="sticky top-0 z-[2] flex border-b border-rule bg-sheet" style={{ height: headHeight(cols) }}>
                <ChartHead lines={cols} hot={hot} onHot={setHot} onGo={() => undefined} />
                {data.was.length > 0 && (
                  <span className="ml-auto self-end pr-4 pb-1.5 text-fine text-ink-2">
                    <span
                      aria-hidden
                      className="mr-1 inline-block h-[10px] w-[6px] border border-dashed border-ink-3 align-[-1px]"
                    />
                    as it was
                  </span>
                )}
              </div>
            )}
            <div className="relative">
              <ol ref={list} aria-label="Changes" className="relative" style={{ paddingLeft: indent }}>
                {lines.map((l) => {
                  const on = (l.is === "head" ? "head" : l.key) === met;
                  return (
                    <ReviewRow
                      key={`${l.is} ${l.key}`}
                      line={l}
                      on={on}
                      unread={unread}
                      reads={reads}
                      data={data}
                      others={others}
                      onMeet={() => (on ? undefined : go(l))}
                      onRead={toggle}
                      onOpen={() => l.is === "fold" && setOpened((o) => new Set(o).add(l.key))}
                    >
                      {phone && on && <div className="mt-2 border-t border-rule pt-1">{beside}</div>}
                    </ReviewRow>
                  );
                })}
              </ol>
              {!phone && <Overlay list={list} lines={lines} now={data.chart} was={data.was} hot={hot} />}
              {lines.length === 0 && <Nothing only={only} data={data} onAll={() => setOnly(false)} />}
            </div>
          </div>
          {reads && (
            <Bottom
              on={!!line}
              read={!!line && stepsOf(line).every((s) => !unread.has(s))}
              suggests={line?.is === "step" && !!line.row.now}
              onWalk={walk}
              onRead={toggle}
              onSay={speak}
            />
          )}
        </div>
        {(!phone || !line) && (
          <aside
            aria-label="What was said, and what is left"
            className="review-side scroller w-[400px] flex-none overflow-auto border-l border-rule bg-film px-4 py-3 max-lg:h-[42%] max-lg:w-full max-lg:border-t max-lg:border-l-0 max-md:h-auto max-md:overflow-visible"
          >
            {beside}
          </aside>
        )}
      </div>
    </main>
  );
}

/** byRisk says how much has changed, or of a first revision how much of what can do most is still to be read. */
function byRisk(data: S["Redlined"], unread: Map<string, S["UnreadStep"]>) {
  if (data.redline.counted || data.was.length > 0) return data.redline.counted;
  const grave = data.redline.rows.filter((r) => r.risk === 0);
  if (!data.reading || grave.length === 0) return "";
  const left = grave.filter((r) => unread.has(r.step)).length;
  return left === 0
    ? "every turn, lock, belt, bolt and tensioner is read"
    : `turns, locks, belts, bolts and tension first: ${left} of ${grave.length} to read`;
}

/** asLine is a step as one would type it. */
const asLine = (r: Row) => {
  const s = (r.after ?? "").replace(/\.$/, "");
  return s.charAt(0).toLowerCase() + s.slice(1);
};

/** says answers the first question: how much has changed. */
function says(data: S["Redlined"]) {
  const n = data.redline.rows.filter((r) => r.kind !== "same").length;
  if (!data.against && data.redline.rows.every((r) => r.kind === "same") && data.redline.header.length === 0)
    return data.was.length > 0 ? "Nothing has changed" : "The first revision";
  if (n === 0 && data.redline.header.length + data.redline.sheet.length === 0) return "Nothing has changed";
  return n === 0 ? "No step has changed" : `${n} step${n === 1 ? " has" : "s have"} changed`;
}
