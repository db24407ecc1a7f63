import { useParams, useSearch } from "@tanstack/react-router";
import { Tabs } from "radix-ui";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Aside } from "../../drafts/Aside";
import { api, ask, type S } from "../../api/client";
import { useAddress } from "../../shell/address";
import { useActions } from "../../shell/actions";
import { KeyMap } from "../../shell/KeyMap";
import { Trouble, Waiting } from "../../shell/Trouble";
import { say } from "../../shell/toast";
import { Block, Saved, StartDraft } from "./Block";
import { CasesTab } from "./CasesTab";
import { Working } from "./Details";
import { DriveEditor, type Mode } from "./DriveEditor";
import { DriveTab } from "./DriveTab";
import { FastenersTab } from "./FastenersTab";
import { LimitsTab } from "./LimitsTab";
import { MarksTab } from "./MarksTab";
import { PartsTab } from "./PartsTab";
import { Release, Reproof } from "./Release";
import { SheetFindings } from "./SheetFindings";
import type { EngineView } from "./sheet";
import { type SheetDraft, useSheet } from "./useSheet";

const tabs = [
  ["drive", "Drive"],
  ["marks", "Marks and locks"],
  ["fasteners", "Fasteners"],
  ["parts", "Parts"],
  ["limits", "Limits"],
  ["cases", "Applicability"],
] as const;

const engineKeys = [
  ["Tab", "From wheel to wheel, and on to the table"],
  ["← ↑ → ↓", "Move the wheel 1 mm, the mark 1°; Shift ten times, Alt a tenth"],
  ["W", "Place a wheel"],
  ["Space", "While leading: take the wheel, again for its back"],
  ["Enter", "While leading: that is the route"],
  ["Delete", "Take the wheel out"],
  [".", "Next finding"],
  ["M", "Take its mend"],
  ["Ctrl Z", "Undo, across saves"],
  ["Ctrl Shift Z", "Redo"],
  ["Ctrl K", "Find or do"],
  ["Esc", "Leave it"],
  ["?", "This map"],
];

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
  };
  return at[list] ?? "limits";
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
  const [mode, setMode] = useState<Mode>({ do: "move" });
  const [selected, setSelected] = useAddress<string>("on", "");
  const [at, setAt] = useState(-1);
  const [keys, setKeys] = useState(false);
  const table = useRef<HTMLDivElement>(null);

  const select = useCallback((ref: string) => setSelected(ref), [setSelected]);
  const go = useCallback(
    (on: string) => {
      setTab(tabOf(on));
      const [list, id] = on.split("/");
      const ref = id ? `${list}/${id}` : "";
      setSelected(ref);
      requestAnimationFrame(() =>
        table.current?.querySelector(`[data-ref="${CSS.escape(ref)}"]`)?.scrollIntoView({ block: "nearest" }),
      );
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
    setSelected(l.thing);
    setMode({ do: "move" });
  }, [mode, draft, setSelected]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLElement && e.target.matches("input, textarea, select");
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z" && !typing) {
        e.preventDefault();
        draft.undo(e.shiftKey);
      } else if (typing || e.ctrlKey || e.metaKey) return;
      else if (e.key === "?") setKeys(true);
      else if (e.key === "Escape") setMode({ do: "move" });
      else if (e.key === "Enter" && mode.do === "route") {
        e.preventDefault();
        lead();
      } else if (e.key === "." && view.findings.length > 0) {
        const next = (at + 1) % view.findings.length;
        setAt(next);
        go(view.findings[next].on);
      } else if (e.key.toLowerCase() === "m" && at >= 0) mend(at);
      else if (e.key.toLowerCase() === "w" && meta.editable) setMode({ do: "wheel" });
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [draft, mode, lead, view.findings, at, go, mend, meta.editable]);

  useActions(
    useMemo(
      () => [
        { name: "Keys", keys: "?", run: () => setKeys(true) },
        ...tabs.map(([v, n]) => ({ name: `Show ${n.toLowerCase()}`, group: "Engine sheet", run: () => setTab(v) })),
        ...(meta.editable
          ? [
              { name: "Place a wheel", keys: "W", group: "Engine sheet", run: () => setMode({ do: "wheel" }) },
              {
                name: "Lead a belt",
                group: "Engine sheet",
                run: () => setMode({ do: "route", kind: "belt", wheels: [], stops: [] }),
              },
              {
                name: "Lead a chain",
                group: "Engine sheet",
                run: () => setMode({ do: "route", kind: "chain", wheels: [], stops: [] }),
              },
              { name: "Undo", keys: "Ctrl Z", group: "Engine sheet", run: () => draft.undo(false) },
              { name: "Redo", keys: "Ctrl Shift Z", group: "Engine sheet", run: () => draft.undo(true) },
            ]
          : []),
      ],
      [meta.editable, draft, setTab],
    ),
  );

  return (
    <main className="flex h-full flex-col">
      <Block draft={draft} />
      <Aside parcels={draft.post.aside} again={(b) => draft.post.again(b, draft.view.meta.version)} drop={draft.post.drop} />
      <KeyMap keys={engineKeys} open={keys} onOpenChange={setKeys} />
      <Tabs.Root value={tab} onValueChange={setTab} className="flex min-h-0 flex-1 flex-col">
        <div className="flex flex-none flex-wrap-reverse items-end gap-x-2 border-b border-rule bg-film px-3.5 pt-1">
          <Tabs.List aria-label="The sheet" className="flex">
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
            <button type="button" className="button quiet !min-h-[22px]" onClick={() => setKeys(true)}>
              Keys
            </button>
            <Saved draft={draft} />
            <a
              className="button quiet !min-h-[22px] no-underline"
              href={`/api/engines/${meta.code}/drawing?number=${meta.number}&labels=true`}
              download={`${meta.code}.svg`}
            >
              Drawing as SVG
            </a>
            <Release draft={draft} />
            <StartDraft draft={draft} />
          </span>
        </div>
        {meta.inUse > 0 && <Reproof code={meta.code} />}
        <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
          <div
            className={`flex h-[440px] min-w-0 flex-none flex-col lg:h-auto bg-(--white) lg:border-r lg:border-rule ${tab === "drive" ? "wide lg:w-[41%]" : tab === "marks" ? "lg:w-[29%]" : "lg:w-[23%]"}`}
          >
            <Bar draft={draft} mode={mode} onMode={setMode} onLead={lead} selected={selected} />
            <div className="relative min-h-[220px] flex-1">
              <DriveEditor
                draft={draft}
                mode={mode}
                onMode={setMode}
                onServe={serve}
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
                      <button type="button" className="button solid mt-3" onClick={() => setMode({ do: "wheel" })}>
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
              {tab === "drive" && <DriveTab draft={draft} selected={selected} onSelect={select} onMode={setMode} />}
              {tab === "marks" && <MarksTab draft={draft} selected={selected} onSelect={select} />}
              {tab === "fasteners" && <FastenersTab draft={draft} selected={selected} onSelect={select} />}
              {tab === "parts" && <PartsTab draft={draft} selected={selected} onSelect={select} />}
              {tab === "limits" && <LimitsTab draft={draft} selected={selected} onSelect={select} />}
              {tab === "cases" && <CasesTab draft={draft} selected={selected} onSelect={select} />}
            </Tabs.Content>
          </Working.Provider>
        </div>
      </Tabs.Root>
    </main>
  );
}

/** Bar is the line over the drawing: what is being done, or what is selected. */
function Bar({
  draft,
  mode,
  onMode,
  onLead,
  selected,
}: {
  draft: SheetDraft;
  mode: Mode;
  onMode: (m: Mode) => void;
  onLead: () => void;
  selected: string;
}) {
  const { view } = draft;
  if (mode.do === "wheel")
    return (
      <p className="flex h-9 flex-none items-center gap-2 bg-marking-wash px-3 text-small">
        Click where the wheel’s centre is.
        <button type="button" className="button quiet ml-auto !min-h-[22px]" onClick={() => onMode({ do: "move" })}>
          Leave it <span className="key">Esc</span>
        </button>
      </p>
    );
  if (mode.do === "route")
    return (
      <p className="flex h-9 flex-none items-center gap-2 bg-marking-wash px-3 text-small whitespace-nowrap">
        <span className="truncate">
          Click the wheels as the {mode.kind} travels, from the driver on. Click the last again for its back.{" "}
          {mode.stops.length > 0 && `${mode.stops.length} so far.`}
        </span>
        <button type="button" className="button ml-auto !min-h-[22px]" disabled={mode.stops.length < 2} onClick={onLead}>
          That is the route <span className="key">Enter</span>
        </button>
        <button type="button" className="button quiet !min-h-[22px]" onClick={() => onMode({ do: "move" })}>
          Leave it
        </button>
      </p>
    );
  return (
    <p className="flex h-9 flex-none items-center px-3 text-small text-ink-2">
      <span className="truncate">{saidOf(view, selected)}</span>
      {view.meta.editable && view.sheet.wheels.length > 0 && (
        <span className="ml-auto hidden pl-3 whitespace-nowrap min-[1180px]:[.wide_&]:inline">
          <span className="key">←</span> <span className="key">↑</span> 1 mm, <span className="key">Shift</span> 10,{" "}
          <span className="key">Alt</span> 0.1
        </span>
      )}
    </p>
  );
}

/** saidOf is the selected thing in a line. */
function saidOf(view: EngineView, selected: string) {
  const [list, id] = selected.split("/");
  if (list === "wheels") {
    const w = view.sheet.wheels.find((v) => v.id === id);
    if (!w) return "";
    const meets = view.derived.loops.flatMap((l) => l.wheels).find((v) => v.wheel === id);
    const minus = (n: number) => n.toFixed(1).replace("-", "−");
    return `${w.name}: x ${minus(w.x)}, y ${minus(w.y)} mm${meets ? `; the loop lies on ${meets.wrap.toFixed(0)}° of it` : ""}`;
  }
  if (list === "marks") {
    const m = view.sheet.marks?.find((v) => v.id === id);
    return m ? `${m.name}: pointer ${m.clock ?? 0}° from twelve o’clock` : "";
  }
  return `Seen from the ${view.sheet.view}`;
}
