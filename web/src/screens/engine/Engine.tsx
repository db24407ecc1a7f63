import { useParams, useSearch } from "@tanstack/react-router";
import { Tabs } from "radix-ui";
import { type RefObject, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, me, type S } from "../../api/client";
import { Aside } from "../../drafts/Aside";
import { useActions } from "../../shell/actions";
import { useAddress } from "../../shell/address";
import { KeyMap } from "../../shell/KeyMap";
import { mute } from "../../shell/keys";
import { Trouble, Waiting } from "../../shell/Trouble";
import { say } from "../../shell/toast";
import { useSmall } from "../../shell/useSmall";
import { useTitle } from "../../shell/useTitle";
import { Bar } from "./Bar";
import { Begin, Block, Saved, StartDraft } from "./Block";
import { type Begun, beginnings, begin as beginThing } from "./begin";
import { CasesTab } from "./CasesTab";
import { Working } from "./Details";
import { DriveEditor, type Mode } from "./DriveEditor";
import { DriveTab } from "./DriveTab";
import { EngineTab } from "./EngineTab";
import { FastenersTab } from "./FastenersTab";
import { LimitsTab } from "./LimitsTab";
import { MarksTab } from "./MarksTab";
import { PartsTab } from "./PartsTab";
import { Release, Reproof } from "./Release";
import { reshape, reshapes } from "./reshape";
import { want } from "./rows";
import { SheetFindings } from "./SheetFindings";
import { fresh, set } from "./sheet";
import { type SheetDraft, useSheet } from "./useSheet";

/** The tabs stand in the order a sheet is drawn up. */
const tabs = [
  ["engine", "Engine"],
  ["drive", "Drive"],
  ["marks", "Marks and locks"],
  ["fasteners", "Fasteners"],
  ["parts", "Parts"],
  ["cases", "Applicability"],
  ["limits", "Limits"],
] as const;

const engineKeys = [
  ["Tab", "From wheel to wheel, and on to the table"],
  ["← ↑ → ↓", "Move the wheel 1 mm, the mark 1°; Shift ten times, Ctrl a tenth"],
  ["W", "Place a wheel: arrows or figures, Enter"],
  ["Space", "While leading: take the wheel, again to turn it over"],
  ["⌫", "While leading: take the last back"],
  ["Enter", "While leading: that is the route"],
  ["+ − 0", "Nearer, farther, all of the drawing"],
  ["Delete", "Remove the wheel"],
  [".", "Next finding"],
  ["Enter", "To the field of the finding"],
  ["M", "Take its mend"],
  ["Ctrl Z", "Undo, across saves"],
  ["Ctrl Shift Z", "Redo"],
  ["Ctrl K", "Find or do"],
  ["Esc", "Cancel"],
  ["?", "This map"],
];

/** said is an edit of the sheet in a few words: what was to become what. */
const said = (e: { path: string; value?: unknown }) =>
  `${e.path.split("/").slice(1).join(" ").replace(/-/g, " ") || e.path}: ${typeof e.value === "string" || typeof e.value === "number" ? e.value : JSON.stringify(e.value ?? "removed")}`;

/** tabOf is the tab on which a place of the sheet is typed. */
function tabOf(on: string) {
  const list = on.split("/")[0];
  const at: Record<string, string> = {
    marks: "marks",
    locks: "marks",
    fasteners: "fasteners",
    parts: "parts",
    tools: "parts",
    varies: "cases",
    wheels: "drive",
    loops: "drive",
    shafts: "drive",
    gears: "drive",
    readings: "marks",
    sources: "limits",
    tensioners: "drive",
    fluids: "parts",
    names: "parts",
    limits: "limits",
    evidence: "limits",
  };
  return at[list] ?? "engine";
}

/** meetField brings the field where a place of the sheet is typed in sight, or the nearest there is, and the keyboard to it where it is to be taken there. */
function meetField(table: RefObject<HTMLDivElement | null>, on: string, take: boolean, tries = 12) {
  const keys = on.split("/");
  for (let n = keys.length; n > 0; n--) {
    const path = CSS.escape(keys.slice(0, n).join("/"));
    const field =
      table.current?.querySelector<HTMLElement>(`[data-path="${path}"]`) ??
      table.current?.querySelector<HTMLElement>(`[data-ref="${path}"] [data-path]`) ??
      (n === keys.length ? null : table.current?.querySelector<HTMLElement>(`[data-path^="${path}/"]`));
    if (!field) continue;
    // The row’s own fields come before those below it: what is asked for may still have to be drawn.
    if (n < keys.length && tries > 6) break;
    if (take) field.focus({ preventScroll: true });
    field.scrollIntoView({ block: "nearest" });
    return;
  }
  if (tries > 0) requestAnimationFrame(() => meetField(table, on, take, tries - 1));
}

/** Engine is one engine sheet: the drawing and the tables beside it are the same thing, and both can be worked in. */
export function Engine() {
  const { code } = useParams({ from: "/inside/engines/$code" });
  const { sheet: number } = useSearch({ from: "/inside/engines/$code" });
  const { draft, error, refetch } = useSheet(code, number ?? 0);
  if (error) return <Trouble error={error} again={refetch} />;
  if (!draft) return <Waiting />;
  return <Work key={`${code}/${draft.view.meta.number}`} draft={draft} />;
}

function Work({ draft }: { draft: SheetDraft }) {
  const { view } = draft;
  const { sheet, meta } = view;
  const [tab, setTab] = useAddress<string>("tab", "drive");
  useTitle(`${meta.code}, sheet ${meta.number}, ${tabs.find(([v]) => v === tab)?.[1] ?? "Drive"}`);
  const [mode, setMode] = useState<Mode>({ do: "move" });
  const [selected, setSelected] = useAddress<string>("on", "");
  const [at, setAt] = useState(-1);
  const [keys, setKeys] = useState(false);
  const table = useRef<HTMLDivElement>(null);
  // In a low window the drawing folds away, so that the tables keep the room.
  const low = useSmall("(max-height: 560px)");
  const [unfolded, setUnfolded] = useState(false);

  const select = useCallback((ref: string) => setSelected(ref), [setSelected]);
  useEffect(() => {
    const tell = () =>
      api
        .POST("/api/engines/{code}/here", { params: { path: { code: meta.code } }, body: { client: me, step: selected || tab } })
        .catch(() => undefined);
    tell();
    const again = setTimeout(tell, 900); // the line may not have been open yet
    return () => clearTimeout(again);
  }, [meta.code, selected, tab]);
  const go = useCallback(
    (on: string, field = true) => {
      setTab(tabOf(on));
      const [list, id] = on.split("/");
      setSelected(id ? `${list}/${id}` : "");
      meetField(table, on, field);
    },
    [setTab, setSelected],
  );
  const mend = useCallback(
    (i: number, k = 0) => {
      const m = view.findings[i]?.mends[k];
      if (!m || !meta.editable) return;
      draft.save(m.edits);
      say(m.label);
    },
    [view.findings, meta.editable, draft],
  );

  // Where the keyboard was when something was begun in the drawing is where it goes back to.
  const began = useRef<HTMLElement>(undefined);
  const begin = useCallback((m: Mode) => {
    began.current = document.activeElement instanceof HTMLElement ? document.activeElement : undefined;
    setMode(m);
  }, []);
  const leave = useCallback(() => {
    setMode({ do: "move" });
    requestAnimationFrame(() => began.current?.isConnected && began.current.focus());
  }, []);
  const placeWheel = useCallback(
    (x: number, y: number) => {
      const first = sheet.wheels.length === 0;
      const name = first ? "crank" : `wheel ${sheet.wheels.length + 1}`;
      const id = fresh(first ? "crank-wheel" : name, sheet.wheels);
      // Neither teeth nor a diameter: nobody has said them yet.
      const value = first ? { id, name, shaft: "crank", mount: "keyed", x: 0, y: 0 } : { id, name, mount: "idle", x, y };
      draft.save([set(`wheels/${id}`, value)]);
      setTab("drive");
      want(`wheels/${id}`);
      setSelected(`wheels/${id}`);
      setMode({ do: "move" });
    },
    [sheet.wheels, draft, setSelected, setTab],
  );
  /** place begins to place a wheel: the crank’s own stands at 0, 0 on every sheet, the next is offered above what is there. */
  const place = useCallback(() => {
    if (sheet.wheels.length === 0) return placeWheel(0, 0);
    const top = Math.max(...sheet.wheels.map((w) => w.y));
    begin({ do: "wheel", x: 0, y: Math.round(top + 60) });
  }, [sheet.wheels, placeWheel, begin]);

  /** serve takes one more wheel into the route that is being led; the server says on which side it lies. */
  const led = useRef<Promise<S["Leading"] | undefined>>(undefined);
  const serve = useCallback(
    (wheels: string[]) => {
      if (mode.do !== "route") return;
      setMode({ ...mode, wheels });
      const body = { kind: mode.kind, loop: mode.loop, wheels };
      const answer = ask(api.POST("/api/engines/{code}/lead", { params: { path: { code: meta.code } }, body })).catch((e) => {
        say((e as Error).message);
        return undefined;
      });
      led.current = answer;
      answer.then((l) => l && setMode((m) => (m.do === "route" && m.wheels === wheels ? { ...m, stops: l.stops } : m)));
    },
    [mode, meta.code],
  );
  /** leading a loop ends with a new belt or chain, or a new route for one there is */
  const lead = useCallback(async () => {
    if (mode.do !== "route") return;
    const l = await led.current;
    if (!l || l.edits.length === 0) return;
    draft.save(l.edits);
    setTab("drive");
    want(l.thing);
    setSelected(l.thing);
    setMode({ do: "move" });
  }, [mode, draft, setSelected, setTab]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLElement && e.target.matches("input, textarea, select");
      // A cell that nothing was typed in yet has nothing of its own to undo.
      const own = typing && !(e.target instanceof HTMLElement && e.target.dataset.path && !e.target.dataset.typing);
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z" && !own) {
        e.preventDefault();
        draft.undo(e.shiftKey);
      } else if (typing || e.ctrlKey || e.metaKey || e.altKey || mute(e)) return;
      else if (e.target instanceof HTMLElement && e.target.closest("[role=dialog], [role=menu]")) return;
      else if (e.key === "?") setKeys(true);
      else if (e.key === "Escape") {
        if (mode.do !== "move") leave();
      } else if (e.key === "Enter" && mode.do === "route") {
        e.preventDefault();
        lead();
      } else if (e.key === "." && view.findings.length > 0) {
        const next = (at + 1) % view.findings.length;
        setAt(next);
        go(view.findings[next].on, false); // the keyboard stays where . and M are heard
      } else if (e.key === "Enter" && at >= 0 && view.findings[at] && !(e.target as HTMLElement).closest("button, a, [role]")) {
        e.preventDefault();
        go(view.findings[at].on);
      } else if (e.key.toLowerCase() === "m" && at >= 0) mend(at);
      else if (e.key.toLowerCase() === "w" && meta.editable) {
        e.preventDefault();
        place();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [draft, mode, lead, leave, place, view.findings, at, go, mend, meta.editable]);

  useActions(
    useMemo(
      () => [
        { name: "Keys", keys: "?", run: () => setKeys(true) },
        ...tabs.map(([v, n]) => ({ name: `Show ${n.toLowerCase()}`, group: "Engine sheet", run: () => setTab(v) })),
        ...(meta.state === "draft"
          ? [
              {
                name: meta.mayRelease ? "Put into use" : "Review this sheet",
                group: "Engine sheet",
                run: () => document.querySelector<HTMLElement>("[data-release]")?.click(),
              },
            ]
          : []),
        ...(meta.editable
          ? [
              { name: "Place a wheel", keys: "W", group: "Engine sheet", run: place },
              {
                name: "Lead a belt",
                group: "Engine sheet",
                run: () => begin({ do: "route", kind: "belt", wheels: [], stops: [] }),
              },
              {
                name: "Lead a chain",
                group: "Engine sheet",
                run: () => begin({ do: "route", kind: "chain", wheels: [], stops: [] }),
              },
              ...reshapes.map(([how, name]) => ({ name, group: "Engine sheet", run: () => reshape(draft, how) })),
              ...(Object.keys(beginnings) as Begun[]).map((list) => ({
                name: `Add a ${beginnings[list].word}`,
                group: "Engine sheet",
                run: () => {
                  setTab(beginnings[list].tab);
                  beginThing(draft, list, selected, setSelected);
                },
              })),
              { name: "Undo", keys: "Ctrl Z", group: "Engine sheet", run: () => draft.undo(false) },
              { name: "Redo", keys: "Ctrl Shift Z", group: "Engine sheet", run: () => draft.undo(true) },
            ]
          : []),
      ],
      [meta.editable, meta.state, meta.mayRelease, draft, setTab, place, begin, selected, setSelected],
    ),
  );

  return (
    <main id="main" className="flex h-full flex-col">
      <Block draft={draft} />
      <Aside
        parcels={draft.post.aside}
        says={said}
        again={(b) => draft.post.again(b, draft.view.meta.version)}
        drop={draft.post.drop}
      />
      <KeyMap keys={engineKeys} open={keys} onOpenChange={setKeys} />
      <Tabs.Root value={tab} onValueChange={setTab} className="flex min-h-0 flex-1 flex-col">
        <div className="flex flex-none flex-wrap-reverse items-end gap-x-2 border-b border-rule bg-film px-3.5 pt-1">
          <Tabs.List aria-label="The engine sheet" className="flex flex-wrap">
            {tabs.map(([v, n]) => (
              <Tabs.Trigger
                key={v}
                value={v}
                className="tab whitespace-nowrap data-[state=active]:border-rule data-[state=active]:bg-sheet data-[state=active]:font-[650] data-[state=active]:text-ink"
              >
                {n}
              </Tabs.Trigger>
            ))}
          </Tabs.List>
          <span className="ml-auto flex flex-wrap items-center justify-end gap-2 self-center text-small whitespace-nowrap text-ink-2">
            <button type="button" className="button quiet slim" onClick={() => setKeys(true)}>
              Keys
            </button>
            <Saved draft={draft} />
            <a
              className="button quiet slim no-underline"
              href={`/api/engines/${meta.code}/drawing?number=${meta.number}&labels=true`}
              download={`${meta.code}.svg`}
            >
              Drawing as SVG
            </a>
            <Begin draft={draft} />
            <Release draft={draft} />
            <StartDraft draft={draft} />
          </span>
        </div>
        {meta.inUse > 0 && <Reproof code={meta.code} />}
        <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
          {low && mode.do === "move" && (
            <div className="flex flex-none items-center border-b border-rule bg-film px-3 text-small text-ink-2">
              {view.findings.length === 0
                ? "The engine sheet fits together"
                : `${view.findings.length} finding${view.findings.length === 1 ? "" : "s"}`}
              <button
                type="button"
                className="button quiet ml-auto slim"
                aria-expanded={unfolded}
                onClick={() => setUnfolded(!unfolded)}
              >
                {unfolded ? "Fold the drawing away" : "Show the drawing and the findings"}
              </button>
            </div>
          )}
          <div
            hidden={low && !unfolded && mode.do === "move"}
            className={`engine-drawing flex min-w-0 flex-none flex-col bg-(--white) lg:h-auto lg:border-r lg:border-rule ${tab === "fasteners" ? "lg:w-[23%]" : "lg:w-[31%]"}`}
          >
            <Bar
              draft={draft}
              mode={mode}
              onMode={setMode}
              onLead={lead}
              onPlace={placeWheel}
              onLeave={leave}
              selected={selected}
            />
            <div className="relative min-h-[130px] flex-1 lg:min-h-[220px]">
              <DriveEditor
                draft={draft}
                mode={mode}
                onMode={setMode}
                onServe={serve}
                onPlace={placeWheel}
                selected={selected}
                onSelect={select}
                marks={tab === "marks"}
              />
              {sheet.wheels.length === 0 && mode.do === "move" && (
                <div className="absolute inset-0 grid place-items-center">
                  <div className="max-w-[300px] text-center">
                    <p className="font-[650]">Start at the crank</p>
                    <p className="mt-1 text-ink-2">
                      Its wheel stands at x 0, y 0; everything else is placed from there, in millimetres, as the drawing shows it.
                    </p>
                    {meta.editable && (
                      <button type="button" className="button solid mt-3" onClick={place}>
                        Place the crank wheel
                      </button>
                    )}
                  </div>
                </div>
              )}
            </div>
            <SheetFindings draft={draft} at={at} onAt={setAt} onGo={go} onMend={mend} />
          </div>
          <Working.Provider value={draft}>
            <Tabs.Content value={tab} ref={table} className="scroller min-h-0 min-w-0 flex-1 overflow-auto px-4 pb-8">
              {tab === "engine" && <EngineTab draft={draft} selected={selected} onSelect={select} />}
              {tab === "drive" && <DriveTab draft={draft} selected={selected} onSelect={select} onMode={begin} onPlace={place} />}
              {tab === "marks" && <MarksTab draft={draft} selected={selected} onSelect={select} />}
              {tab === "fasteners" && <FastenersTab draft={draft} selected={selected} onSelect={select} />}
              {tab === "parts" && <PartsTab draft={draft} selected={selected} onSelect={select} />}
              {tab === "cases" && <CasesTab draft={draft} selected={selected} onSelect={select} />}
              {tab === "limits" && <LimitsTab draft={draft} selected={selected} onSelect={select} />}
            </Tabs.Content>
          </Working.Provider>
        </div>
      </Tabs.Root>
    </main>
  );
}
