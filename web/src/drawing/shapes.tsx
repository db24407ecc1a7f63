import type { S } from "../api/client";

export type Drawing = S["Drawing"];
export type DrawnWheel = Drawing["wheels"][number];
type State = S["StepState"];

/** sense is 1 where the engine runs clockwise in the drawing, −1 where it does not. */
export const sense = (d: Drawing) => (d.running === "clockwise" ? 1 : -1);

/** shown leaves out the wheels of gear pairs inside a casing; they come in the order they are drawn. */
export const shown = (d: Drawing): DrawnWheel[] => d.wheels.filter((v) => !v.hidden);

/** Shapes draws wheels, rails, loops and marks in the sheet's millimetres. */
export function Shapes({
  drawing,
  state,
  angles,
  px,
  hatch,
  selected,
}: {
  drawing: Drawing;
  state?: State;
  angles: Map<string, number>;
  /** the size of a pixel of the page, mm: lines keep their width on it, belts and wheels theirs on the engine */
  px: number;
  /** the id of the hatch of what is locked */
  hatch: string;
  selected?: string;
}) {
  const cw = sense(drawing);
  const fixed = new Map(state?.shafts.map((s) => [s.id, s]));
  const free = new Set(state?.free);
  const wheels = shown(drawing);
  const crank = drawing.wheels.find((v) => v.shaft === "crank" && v.teeth > 0);
  return (
    <>
      <defs>
        <pattern id={hatch} width="6" height="6" patternUnits="userSpaceOnUse" patternTransform={`rotate(45) scale(${px})`}>
          <rect width="6" height="6" fill="var(--color-marking-wash)" />
          <rect width="2.3" height="6" fill="var(--color-marking)" />
        </pattern>
        {/* locks are hatched the other way than the wheels they hold, so that they stand out */}
        <pattern
          id={`${hatch}-lock`}
          width="6"
          height="6"
          patternUnits="userSpaceOnUse"
          patternTransform={`rotate(-45) scale(${px})`}
        >
          <rect width="6" height="6" fill="var(--color-marking-wash)" />
          <rect width="2.3" height="6" fill="var(--color-marking)" />
        </pattern>
        <pattern id={`${hatch}-1`} width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
          <rect width="6" height="6" fill="var(--color-marking-wash)" />
          <rect width="2.3" height="6" fill="var(--color-marking)" />
        </pattern>
      </defs>
      {drawing.wheels.map((v) => v.mount === "rail" && <Rail key={v.id} rail={v} on={selected === v.id} />)}
      {drawing.loops.map((l) =>
        state && !state.on.includes(l.id) ? (
          <path
            key={l.id}
            d={l.path}
            fill="none"
            stroke="var(--color-ink-3)"
            strokeWidth={1.4 * px}
            strokeDasharray={`${2 * px} ${5 * px}`}
          />
        ) : null,
      )}
      {wheels.map((v) => {
        if (v.mount === "rail") return null;
        const held = v.shaft ? fixed.get(v.shaft)?.fixed : false;
        const turn = v.shaft ? (angles.get(v.shaft) ?? 0) * cw : 0;
        return (
          <g key={v.id} transform={`translate(${v.x} ${v.y})`}>
            <circle
              r={v.teeth ? Math.max(1, v.r - 3.2) : v.r}
              fill={held && !free.has(v.id) ? `url(#${hatch})` : "var(--white)"}
              stroke={selected === v.id ? "var(--color-marking)" : "var(--color-ink)"}
              strokeWidth={(selected === v.id ? 2.4 : 1.2) * px}
            />
            {free.has(v.id) && (
              <circle
                r={Math.max(1, v.r - 8)}
                fill="none"
                stroke="var(--color-ink)"
                strokeWidth={px}
                strokeDasharray={`${3 * px} ${4 * px}`}
              />
            )}
            {v.teeth > 0 && <Teeth r={v.r} n={v.teeth} turn={turn} />}
            <circle
              r={v.teeth ? Math.min(8.5, v.r * 0.25) : Math.min(4.4, v.r * 0.3)}
              fill="var(--white)"
              stroke="var(--color-ink)"
              strokeWidth={1.1 * px}
            />
            {!v.teeth && v.tensions && <path d={`M0 0L0 ${-v.r + 6}`} stroke="var(--color-ink)" strokeWidth={1.1 * px} />}
          </g>
        );
      })}
      {drawing.loops.map((l) =>
        !state || state.on.includes(l.id) ? <LoopBand key={l.id} loop={l} slack={!!state?.slack.includes(l.id)} px={px} /> : null,
      )}
      {state && <Amiss wheels={wheels} state={state} px={px} />}
      {state?.covered && <Covers wheels={wheels} covered={state.covered} px={px} />}
      {wheels.map((v) => (
        <Marks key={v.id} wheel={v} turn={v.shaft ? (angles.get(v.shaft) ?? 0) * cw : 0} px={px} />
      ))}
      {crank && <Direction wheel={crank} cw={cw} px={px} />}
    </>
  );
}

/** Marks are paint on the wheel, each against its black pointer; look-alikes are open. They keep a size that can be read. */
function Marks({ wheel, turn, px }: { wheel: DrawnWheel; turn: number; px: number }) {
  const s = Math.max(1, 0.85 * px);
  return (
    <g transform={`translate(${wheel.x} ${wheel.y})`}>
      {wheel.marks.map((m) => (
        <g key={m.id}>
          <g transform={`rotate(${m.rest + turn})`}>
            {m.kind === "look-alike" ? (
              <circle cy={-wheel.r + 10} r={2.6 * s} fill="var(--white)" stroke="var(--color-ink)" strokeWidth={px} />
            ) : (
              <rect
                x={-2.6 * s}
                y={-wheel.r + 4}
                width={5.2 * s}
                height={Math.min(13 * s, wheel.r * 0.45)}
                fill="var(--color-paint)"
                stroke="var(--color-paint-edge)"
                strokeWidth={0.6 * px}
              />
            )}
          </g>
          {m.kind !== "look-alike" && (
            <path
              d={`M0 ${-wheel.r - 8}l${-5 * s} ${-10 * s}h${10 * s}z`}
              fill="var(--color-ink)"
              transform={`rotate(${m.clock})`}
            />
          )}
        </g>
      ))}
    </g>
  );
}

function Teeth({ r, n, turn }: { r: number; n: number; turn: number }) {
  const pitch = (2 * Math.PI * (r - 2)) / n;
  return (
    <circle
      r={Math.max(1, r - 2)}
      fill="none"
      stroke="var(--color-ink)"
      strokeWidth="2.4"
      strokeDasharray={`${pitch / 2} ${pitch / 2}`}
      transform={`rotate(${turn})`}
    />
  );
}

/** Rail is the part of a guide that the loop lies on; the whole circle until a loop does. */
function Rail({ rail, on }: { rail: DrawnWheel; on: boolean }) {
  if (!rail.rail)
    return (
      <circle cx={rail.x} cy={rail.y} r={rail.r} fill="none" stroke="var(--color-ink-3)" strokeWidth="1" strokeDasharray="4 5" />
    );
  return (
    <path
      d={rail.rail}
      fill="none"
      stroke={on ? "var(--color-marking)" : "var(--color-ink-3)"}
      strokeWidth="9"
      strokeLinecap="round"
    />
  );
}

function LoopBand({ loop, slack, px }: { loop: Drawing["loops"][number]; slack: boolean; px: number }) {
  const d = slack ? loop.slack : loop.path;
  const chain = loop.kind === "chain";
  const s = Math.max(1, 0.62 * px); // on a wide drive a belt is still seen
  return (
    <>
      <path d={d} fill="none" stroke="var(--color-ink)" strokeWidth={7 * s} strokeLinejoin="round" />
      <path
        d={d}
        fill="none"
        stroke="var(--white)"
        strokeWidth={(chain ? 3 : 2) * s}
        strokeDasharray={chain ? `${5 * s} ${3 * s}` : `${1.6 * s} ${3.2 * s}`}
      />
    </>
  );
}

/** Amiss marks where something went wrong in the step that led here: a burst where valves met pistons, a broken ring where teeth may have jumped. */
function Amiss({ wheels, state, px }: { wheels: DrawnWheel[]; state: State; px: number }) {
  const teeth = new Set(state.shafts.filter((s) => s.teeth).map((s) => s.id));
  return wheels.map((v) => {
    if (!v.shaft || !v.teeth) return null;
    if (state.met?.includes(v.shaft)) {
      const rays = Array.from({ length: 16 }, (_, i) => {
        const a = (i * Math.PI) / 8;
        const [from, to] = [v.r + 7 * px, v.r + (i % 2 ? 12 : 18) * px];
        return `M${Math.sin(a) * from} ${-Math.cos(a) * from}L${Math.sin(a) * to} ${-Math.cos(a) * to}`;
      });
      return (
        <path
          key={v.id}
          data-met={v.shaft}
          d={rays.join("")}
          transform={`translate(${v.x} ${v.y})`}
          stroke="var(--color-clash)"
          strokeWidth={2 * px}
          strokeLinecap="round"
        />
      );
    }
    return teeth.has(v.shaft) ? (
      <circle
        key={v.id}
        data-jumped={v.shaft}
        cx={v.x}
        cy={v.y}
        r={v.r + 7 * px}
        fill="none"
        stroke="var(--color-clash)"
        strokeWidth={1.6 * px}
        strokeDasharray={`${5 * px} ${5 * px}`}
      />
    ) : null;
  });
}

/** Covers lie over the wheels that nobody gets at just now. */
export function Covers({ wheels, covered, px }: { wheels: DrawnWheel[]; covered: Record<string, string>; px: number }) {
  return (
    <g>
      {wheels
        .filter((v) => covered[v.id])
        .map((v) => (
          <circle
            key={v.id}
            data-covered={v.id}
            cx={v.x}
            cy={v.y}
            r={v.r + 6 * px}
            fill="var(--color-film)"
            fillOpacity="0.72"
            stroke="var(--color-ink-3)"
            strokeWidth={1 * px}
          >
            <title>Behind the {covered[v.id]}</title>
          </circle>
        ))}
    </g>
  );
}

function Direction({ wheel, cw, px }: { wheel: DrawnWheel; cw: number; px: number }) {
  const r = wheel.r + 17;
  const a = (deg: number) => [wheel.x + r * Math.cos((deg * Math.PI) / 180), wheel.y + r * Math.sin((deg * Math.PI) / 180)];
  const from = cw > 0 ? 62 : 118;
  const to = cw > 0 ? 118 : 62;
  const [x1, y1] = a(from);
  const [x2, y2] = a(to);
  const head = to + (cw > 0 ? 90 : -90);
  return (
    <g stroke="var(--color-ink)" strokeWidth={1.6 * px} fill="none">
      <path d={`M${x1} ${y1}A${r} ${r} 0 0 ${cw > 0 ? 1 : 0} ${x2} ${y2}`} />
      <path
        transform={`translate(${x2} ${y2}) rotate(${head}) scale(${px})`}
        d="M2 0l-10 -3.4v6.8z"
        fill="var(--color-ink)"
        stroke="none"
      />
    </g>
  );
}
