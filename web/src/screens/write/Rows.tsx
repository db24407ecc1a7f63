import { DndContext, type DragEndEvent, PointerSensor, useDraggable, useDroppable, useSensor, useSensors } from "@dnd-kit/core";
import { Link } from "@tanstack/react-router";
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, type ReactNode, useEffect, useLayoutEffect, useRef, useState } from "react";
import type { S } from "../../api/client";
import { Branches } from "./Branches";
import { Chart, ChartHead, chartWidth, headHeight } from "./Chart";
import { Standing } from "./Standing";

type Row = S["Row"];
const lineHeight = 31;
const cautionHeight = 27;
const phaseHeight = 25;

/** Rows lists the steps beside the latch chart; only those in sight are in the page. */
export function Rows({
  view,
  selected,
  from,
  onFrom,
  opened,
  phases,
  editable,
  others,
  revision,
  spoken,
  onSelect,
  onOpen,
  onMove,
  beside,
  editor,
  empty,
}: {
  view: S["View"];
  /** the pages this one can go on from, or that can go on from it */
  beside: S["Beside"][];
  selected?: string;
  /** the step at the top of the list when it is opened, and what is told when another one is */
  from: string;
  onFrom: (id: string) => void;
  opened: boolean;
  phases: Record<string, string>;
  editable: boolean;
  others: Record<string, { name: string; step: string }>;
  revision: number;
  /** how many remarks are open at each step */
  spoken?: Record<string, number>;
  onSelect: (id: string) => void;
  onOpen: (id: string) => void;
  onMove: (id: string, after: string, phase: string) => void;
  editor: (row: Row, i: number) => ReactNode;
  empty: ReactNode;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const [hot, setHot] = useState<string>();
  const [over, setOver] = useState<string>();
  const rows = view.rows;
  const head = (i: number) => (i === 0 || rows[i - 1].step.phase !== rows[i].step.phase ? phaseHeight : 0);
  const v = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (i) => head(i) + lineHeight + (rows[i].step.cautions?.length ?? 0) * cautionHeight,
    getItemKey: (i) => rows[i].step.id,
    overscan: 12,
    paddingEnd: 24,
    // Room for the offers that open over the last rows while a line is typed.
    scrollPaddingEnd: rows.some((r) => r.step.id === "line") ? 190 : 8,
  });
  const at = rows.findIndex((r) => r.step.id === selected);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a new selection scrolls
  useLayoutEffect(() => {
    if (at >= 0) v.scrollToIndex(at, { align: "auto" });
  }, [selected]);
  // A step that is opened is seen whole, however it grows while it is filled in.
  useEffect(() => {
    const row = opened && selected ? document.getElementById(`step-${selected}`) : null;
    if (!row) return;
    const see = () => requestAnimationFrame(() => row.scrollIntoView({ block: "nearest" }));
    const grows = new ResizeObserver(see);
    grows.observe(row);
    return () => grows.disconnect();
  }, [opened, selected]);
  const began = useRef(from);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the list is opened once
  useLayoutEffect(() => {
    const i = rows.findIndex((r) => r.step.id === began.current);
    if (i > 0) v.scrollToIndex(i, { align: "start" });
  }, []);
  const onScroll = () => {
    const y = scroller.current?.scrollTop ?? 0;
    const i = v.measurementsCache.findIndex((m) => m.end > y + 4);
    onFrom(i > 0 ? (rows[i]?.step.id ?? "") : "");
  };
  const ghost = rows.findIndex((r) => r.step.id === "line");
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a new ghost scrolls
  useEffect(() => {
    if (ghost >= 0) v.scrollToIndex(ghost, { align: "auto" });
  }, [ghost >= 0]);
  const items = v.getVirtualItems();
  const height = v.getTotalSize();
  const width = chartWidth(view.chart.length);
  // Where a step's own line begins in its row: under its heading and its cautions, however many lines those take.
  const lines = useRef(new Map<string, number>());
  const [, measured] = useState(0);
  useLayoutEffect(() => {
    let moved = false;
    for (const li of scroller.current?.querySelectorAll<HTMLElement>("li[data-index]") ?? []) {
      const id = rows[Number(li.dataset.index)]?.step.id;
      const line = li.querySelector(".step-line");
      if (!id || !line) continue;
      const at = line.getBoundingClientRect().top - li.getBoundingClientRect().top;
      moved ||= Math.abs((lines.current.get(id) ?? -1) - at) > 0.5;
      lines.current.set(id, at);
    }
    if (moved) measured((n) => n + 1);
  });
  const y = (i: number) => {
    const m = v.measurementsCache[i];
    if (!m) return height;
    const above = lines.current.get(rows[i].step.id) ?? head(i) + (rows[i].step.cautions?.length ?? 0) * cautionHeight;
    return m.start + above + lineHeight / 2;
  };
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const drop = (e: DragEndEvent) => {
    setOver(undefined);
    const to = e.over?.id as string | undefined;
    if (!to || to === e.active.id) return;
    const target = rows.find((r) => r.step.id === to);
    if (!target) return;
    onMove(String(e.active.id), to, target.step.phase);
    onSelect(String(e.active.id));
  };
  const top = items[0]?.start ?? 0;
  const bottom = items[items.length - 1]?.end ?? 0;
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div
        className="chart-head flex flex-none overflow-hidden border-b border-rule bg-sheet"
        style={{ height: headHeight(view.chart) }}
      >
        <ChartHead lines={view.chart} hot={hot} onHot={setHot} onGo={(i) => rows[i] && onSelect(rows[i].step.id)} />
      </div>
      {(view.begins || view.header.after) && (
        <Standing of="Begins with" says={view.begins} title={view.header.after} goes="Goes on from" pages={beside} />
      )}
      <p className="sr-only" aria-live="polite">
        {at >= 0 ? `Step ${at + 1} of ${rows.length}. ${rows[at].sentence}` : ""}
      </p>
      <div
        ref={scroller}
        tabIndex={0}
        role="region"
        aria-label="Latch chart and steps"
        className="scroller relative min-h-0 flex-1 overflow-auto"
        data-steps
        onScroll={onScroll}
      >
        {rows.length === 0 ? (
          empty
        ) : (
          <DndContext
            sensors={sensors}
            onDragEnd={drop}
            onDragOver={(e) => setOver(e.over?.id as string)}
            onDragCancel={() => setOver(undefined)}
            accessibility={announced}
          >
            <div className="relative" style={{ height }}>
              <Branches rows={rows} x={width} y={y} top={top} bottom={bottom} />
              <Chart
                view={view}
                y={y}
                height={height}
                top={top}
                bottom={bottom}
                hot={hot}
                onHot={setHot}
                onGo={(i) => rows[i] && onSelect(rows[i].step.id)}
              />
              <ol aria-label="Steps" className="contents">
                {items.map((it) => {
                  const r = rows[it.index];
                  if (!r) return null;
                  const on = r.step.id === selected;
                  const here = Object.values(others).find((o) => o.step === r.step.id);
                  return (
                    <li
                      key={it.key}
                      aria-current={on ? "step" : undefined}
                      aria-setsize={rows.length}
                      aria-posinset={it.index + 1}
                      ref={v.measureElement}
                      data-index={it.index}
                      className="absolute top-0 left-0 w-full"
                      style={{ transform: `translateY(${it.start}px)` }}
                    >
                      {head(it.index) > 0 && (
                        <h2 className="phase-row">
                          <span style={{ marginLeft: width + 16 }}>{phases[r.step.phase] ?? r.step.phase}</span>
                        </h2>
                      )}
                      <StepRow
                        row={r}
                        index={it.index}
                        on={on}
                        here={here?.name}
                        said={spoken?.[r.step.id] ?? 0}
                        revision={revision}
                        width={width}
                        editable={editable}
                        drop={over === r.step.id}
                        onSelect={onSelect}
                        onOpen={onOpen}
                      >
                        {on && opened ? editor(r, it.index) : null}
                      </StepRow>
                    </li>
                  );
                })}
              </ol>
            </div>
          </DndContext>
        )}
      </div>
      {(view.ends || view.header.before) && (
        <Standing of="Ends with" says={view.ends} title={view.header.before} goes="Goes on in" pages={beside} />
      )}
    </div>
  );
}

const quiet = {
  onDragStart: () => undefined,
  onDragOver: () => undefined,
  onDragEnd: () => "Moved",
  onDragCancel: () => undefined,
};
const announced = { announcements: quiet, screenReaderInstructions: { draggable: "Use Alt and the arrow keys to move a step." } };

const StepRow = memo(function StepRow({
  row,
  index,
  on,
  here,
  said,
  revision,
  width,
  editable,
  drop,
  onSelect,
  onOpen,
  children,
}: {
  row: Row;
  index: number;
  on: boolean;
  here?: string;
  said: number;
  revision: number;
  width: number;
  editable: boolean;
  drop: boolean;
  onSelect: (id: string) => void;
  onOpen: (id: string) => void;
  children: ReactNode;
}) {
  const id = row.step.id;
  const drag = useDraggable({ id, disabled: !editable || id === "line" });
  const target = useDroppable({ id });
  const sev = row.severity;
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the list is walked with the arrow keys, see the key map
    <div
      ref={target.setNodeRef}
      id={`step-${id}`}
      data-on={on}
      data-drop={drop}
      data-ghost={id === "line"}
      data-branch={row.fails >= 0}
      data-aside={!!row.aside}
      data-here={here}
      className="step-row"
      style={{ paddingLeft: width, opacity: drag.isDragging ? 0.45 : 1 }}
      // Where a row above folds on this press, the release would find another row.
      onPointerDown={(e) => e.pointerType === "mouse" && e.button === 0 && onSelect(id)}
      onClick={() => onSelect(id)}
      onDoubleClick={() => editable && onOpen(id)}
    >
      {row.step.cautions?.map((c, i) => (
        <div key={i} className="caution">
          <b className="flex-none font-[650]">Caution</b>
          <span>{c.text}</span>
        </div>
      ))}
      <div className="step-line">
        <span className="step-no" ref={drag.setNodeRef} {...drag.listeners} title={editable ? "Drag to move" : undefined}>
          {id === "line" ? "+" : index + 1}
        </span>
        <span className="step-words">
          {row.lead && <span className="lead">{row.lead} </span>}
          {row.spans.map((s, i) =>
            s.kind === "verb" ? (
              <b key={i}>{s.text}</b>
            ) : s.kind === "object" ? (
              <span key={i}>
                <span className="thing">{s.text.trimEnd()}</span>
                {s.text.endsWith(" ") ? " " : ""}
              </span>
            ) : (
              <span key={i} className={row.step.unread ? "text-ink-2 italic" : undefined}>
                {s.text}
              </span>
            ),
          )}
          {row.step.note && <span className="block text-small text-ink-2">{row.step.note}</span>}
          {row.back && <span className="ml-2 text-small text-ink-2">{row.back}</span>}
          {said > 0 && (
            <Link
              to="/revisions/$revision/review"
              params={{ revision: String(revision) }}
              search={{ step: id }}
              className="ml-2 whitespace-nowrap text-small font-semibold text-marking no-underline hover:underline"
              onClick={(e) => e.stopPropagation()}
            >
              {said} open remark{said === 1 ? "" : "s"}
            </Link>
          )}
          {here && <span className="ml-2 text-fine text-held">{here} is here</span>}
        </span>
        <span className="step-value">{row.value}</span>
      </div>
      {children}
      {sev && (
        <span
          className="edge"
          aria-hidden
          style={{
            background:
              sev === "blocks" ? "var(--color-clash)" : sev === "should-fix" ? "var(--color-paint)" : "var(--color-rule)",
          }}
        />
      )}
    </div>
  );
});
