import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useSearch } from "@tanstack/react-router";
import { type ReactNode, useState } from "react";
import { api, ask, type Failure, type S } from "../../api/client";
import { sheetFields } from "../../api/queries";
import { CoursePicture } from "../../drawing/CoursePicture";
import { useTitle } from "../../shell/useTitle";
import { become, useCourse } from "../engine/BoltDepth";
import { figure } from "../engine/sheet";
import { ClampPlot, DropsPlot, ReadingsPlot } from "./plots";

/** Arithmetic is the sums of the bench on one page; every figure is worked out by the core. */
export function Arithmetic() {
  useTitle("Bench arithmetic");
  return (
    <main id="main" className="scroller h-full overflow-auto">
      <div className="mx-auto max-w-[1240px] px-6 pt-4 pb-10">
        <h1 className="sr-only">Bench arithmetic</h1>
        <div className="grid gap-x-10 lg:grid-cols-[minmax(0,38%)_minmax(0,1fr)]">
          <div>
            <Rim />
            <Tooth />
          </div>
          <Drops />
        </div>
        <Note />
        <Clamp />
        <Joint />
        <Wrench />
        <Convert />
      </div>
    </main>
  );
}

/** useFigures keeps typed figures as text, and gives them as numbers once all can be read. */
function useFigures<K extends string>(start: Record<K, string>) {
  const [text, setText] = useState(start);
  const numbers = {} as Record<K, number>;
  const wrong: K[] = [];
  for (const k of Object.keys(text) as K[]) {
    const n = figure(text[k]);
    if (n === undefined || Number.isNaN(n)) wrong.push(k);
    numbers[k] = n ?? 0;
  }
  const field = (k: K) => ({
    value: text[k],
    bad: wrong.includes(k),
    onChange: (v: string) => setText((t) => ({ ...t, [k]: v })),
  });
  return { numbers, wrong, field, text, setText };
}

function Box({ title, children, says }: { title: string; children: ReactNode; says: string }) {
  return (
    <section className="border-t border-ink py-3" aria-label={title}>
      <h2 className="text-lead">{title}</h2>
      <p className="mb-2 text-small text-ink-2">{says}</p>
      {children}
    </section>
  );
}

function Input({
  name,
  unit,
  value,
  onChange,
  bad,
  wide,
}: {
  name: string;
  unit?: string;
  value: string;
  onChange: (v: string) => void;
  bad?: boolean;
  wide?: boolean;
}) {
  return (
    <label className={wide ? "min-w-0 flex-1" : "w-[72px] flex-auto max-w-[120px]"}>
      <span className="label truncate">
        {name}
        {unit && `, ${unit}`}
      </span>
      <input
        className={`field font-mono !text-small ${bad ? "!border-clash" : ""}`}
        value={value}
        inputMode="decimal"
        aria-invalid={bad}
        onChange={(e) => onChange(e.target.value)}
      />
    </label>
  );
}

/** Answer is a figure with its name under it. */
function Answer({ value, name, tone }: { value: ReactNode; name: string; tone?: "held" | "clash" }) {
  return (
    <div className="min-w-[86px]">
      <div className={`font-mono text-head ${tone === "held" ? "text-held" : tone === "clash" ? "text-clash" : ""}`}>{value}</div>
      <div className="text-fine text-ink-2">{name}</div>
    </div>
  );
}

function Wrong({ error, fields }: { error: unknown; fields: string[] }) {
  if (fields.length > 0) return <p className="mt-2 text-clash">Type figures only, with a point or a comma.</p>;
  if (error) return <p className="mt-2 text-clash">{(error as Failure).message}</p>;
  return null;
}

const minus = (v: number, d: number) => v.toFixed(d).replace("-", "−");

function Rim() {
  const f = useFigures({ diameter: "190", degrees: "24", mm: "" });
  const [by, setBy] = useState<"degrees" | "mm">("degrees");
  const body =
    by === "degrees"
      ? { diameter: f.numbers.diameter, degrees: f.numbers.degrees }
      : { diameter: f.numbers.diameter, mm: f.numbers.mm };
  const bad = f.wrong.filter((k) => k === "diameter" || k === by);
  const { data, error } = useQuery({
    queryKey: ["rim", body],
    queryFn: () => ask(api.POST("/api/arithmetic/rim", { body })),
    enabled: bad.length === 0,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const use = (k: "degrees" | "mm") => {
    const g = f.field(k);
    return {
      ...g,
      bad: by === k && g.bad,
      value: by === k ? g.value : data ? (k === "degrees" ? data.degrees.toFixed(2) : data.arc.toFixed(2)) : g.value,
      onChange: (v: string) => {
        setBy(k);
        g.onChange(v);
      },
    };
  };
  return (
    <Box
      title="Degrees and millimetres on a rim"
      says="A mark’s distance round a flywheel or pulley. Type either; the other follows."
    >
      <div className="flex flex-wrap gap-2.5">
        <Input name="Rim" unit="⌀ mm" {...f.field("diameter")} bad={bad.includes("diameter")} />
        <Input name="Degrees" unit="°" {...use("degrees")} />
        <Input name="Round the rim" unit="mm" {...use("mm")} />
      </div>
      {data && !error && (
        <div className="mt-2.5 flex flex-wrap gap-6">
          <Answer value={`${data.arc.toFixed(2)} mm`} name="round the rim, with a tape" />
          <Answer value={`${data.chord.toFixed(2)} mm`} name="straight across, with a rule" />
          <Answer value={`${data.perDegree.toFixed(3)} mm`} name="for one degree" />
        </div>
      )}
      <Wrong error={error} fields={bad} />
    </Box>
  );
}

function Tooth() {
  const f = useFigures({ teeth: "42", driver: "21", count: "1", playMM: "0.12", radius: "11" });
  const { data, error } = useQuery({
    queryKey: ["tooth", f.numbers],
    queryFn: () => ask(api.POST("/api/arithmetic/tooth", { body: f.numbers })),
    enabled: f.wrong.length === 0,
    placeholderData: keepPreviousData,
    retry: false,
  });
  return (
    <Box
      title="A tooth out, and whether the tool sees it"
      says="The error in degrees of the shaft and of the crank, against a tool’s play measured at a radius."
    >
      <div className="flex flex-wrap gap-2.5">
        <Input name="Wheel" unit="teeth" {...f.field("teeth")} />
        <Input name="Crank" unit="teeth" {...f.field("driver")} />
        <Input name="Out by" unit="teeth" {...f.field("count")} />
        <Input name="Play" unit="± mm" {...f.field("playMM")} />
        <Input name="at radius" unit="mm" {...f.field("radius")} />
      </div>
      {data && !error && (
        <>
          <div className="mt-2.5 flex flex-wrap gap-6">
            <Answer value={`${data.ofShaft.toFixed(2)}°`} name="of the shaft" />
            <Answer value={`${data.ofCrank.toFixed(2)}°`} name="of the crank" />
            <Answer value={`±${data.play.toFixed(2)}°`} name="play of the tool" />
            <Answer value={`${data.least.toFixed(2)}°`} name="it is sure from" />
          </div>
          <p className="mt-2">
            The shaft turns {data.ratio} of a crank turn and is home every {data.every} turn{Number(data.every) === 1 ? "" : "s"}.{" "}
            {data.answer && (
              <b className={`font-[650] ${data.answer === "sees it" ? "text-held" : "text-clash"}`}>
                The tool {data.answer}
                {data.answer === "may see it" && ": the error is larger than its play, but not than twice the play"}.
              </b>
            )}
          </p>
        </>
      )}
      <Wrong error={error} fields={f.wrong} />
    </Box>
  );
}

function Drops() {
  const given = useSearch({ from: "/inside/arithmetic" });
  const f = useFigures({
    stroke: String(given.stroke ?? 85),
    rod: String(given.rod ?? 138),
    offset: "0",
    drop: "5",
    before: "-24.2",
    after: "25.8",
    dial: "0.02",
    wheel: "0.5",
  });
  const { data, error } = useQuery({
    queryKey: ["drops", f.numbers],
    queryFn: () => ask(api.POST("/api/arithmetic/drops", { body: f.numbers })),
    enabled: f.wrong.length === 0,
    placeholderData: keepPreviousData,
    retry: false,
  });
  return (
    <Box
      title="Top dead centre from two equal drops"
      says="Turn until the dial shows the drop, read the degree wheel, turn on over the top to the same drop, read again: the middle is top dead centre."
    >
      <div className="flex flex-wrap gap-2.5">
        <Input name="Stroke" unit="mm" {...f.field("stroke")} />
        <Input name="Rod" unit="mm" {...f.field("rod")} />
        <Input name="Offset" unit="mm" {...f.field("offset")} />
        <Input name="Drop" unit="mm" {...f.field("drop")} />
        <Input name="Before" unit="°" {...f.field("before")} />
        <Input name="After" unit="°" {...f.field("after")} />
        <Input name="Dial" unit="± mm" {...f.field("dial")} />
        <Input name="Wheel" unit="± °" {...f.field("wheel")} />
      </div>
      {data && !error && (
        <>
          <div className="mt-2.5 flex flex-wrap gap-6">
            <Answer value={`${minus(data.top, 2)}°`} name="top dead centre on the wheel" />
            <Answer value={`±${data.uncertainty.toFixed(2)}°`} name="k = 2, about 95 %" />
            <Answer
              value={`${data.span.toFixed(1)}°`}
              name={`between readings; geometry ${data.want.toFixed(1)}°`}
              tone={data.fits ? undefined : "clash"}
            />
            <Answer value={`${data.slope.toFixed(3)} mm/°`} name={`there; ${data.slopeTop.toFixed(3)} mm in the last degree`} />
          </div>
          {!data.fits && (
            <p className="mt-1 text-clash">
              The readings lie {data.span > data.want ? "further apart" : "closer together"} than this stroke and rod give for
              that drop. Look at the drop, the dial’s seat or the sheet.
            </p>
          )}
          <DropsPlot data={data} drop={f.numbers.drop} before={f.numbers.before} after={f.numbers.after} />
          <p className="mt-1 text-small text-ink-2">
            What each way resolves (assumptions of ours; the ranking is common practice):{" "}
            {data.methods.map((m) => `${m.name} ±${m.resolves}°`).join(", ")}.
          </p>
        </>
      )}
      <Wrong error={error} fields={f.wrong} />
    </Box>
  );
}

function Note() {
  const given = useSearch({ from: "/inside/arithmetic" });
  const f = useFigures({
    length: String(given.length ?? 123.4),
    mass: String(given.mass ?? 92),
    frequency: String(given.note ?? 110),
    tolerance: String(given.tolerance ?? 8),
  });
  const [text, setText] = useState("104 109 111 108 112");
  const readings = text
    .split(/[\s;]+/)
    .filter(Boolean)
    .map((t) => figure(t) ?? Number.NaN);
  const odd = readings.some(Number.isNaN);
  const body = { ...f.numbers, readings };
  const { data, error } = useQuery({
    queryKey: ["note", body],
    queryFn: () => ask(api.POST("/api/arithmetic/note", { body })),
    enabled: f.wrong.length === 0 && !odd,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const j = readings.length > 0 ? data?.judged : undefined;
  return (
    <Box
      title="The tone of a free run"
      says="Pluck the run, read its tone, turn the engine, read again. The readings are judged together: do they agree, do they still drift, is their mean inside?"
    >
      <div className="grid gap-x-10 gap-y-3 lg:grid-cols-[minmax(0,38%)_minmax(0,1fr)]">
        <div>
          <div className="flex flex-wrap gap-2.5">
            <Input name="Free length" unit="mm" {...f.field("length")} />
            <Input name="Belt" unit="g/m" {...f.field("mass")} />
            <Input name="Tone" unit="Hz" {...f.field("frequency")} />
            <Input name="Tolerance" unit="± Hz" {...f.field("tolerance")} />
          </div>
          <div className="mt-3 flex">
            <Input name="Readings in the order they were taken, Hz" value={text} onChange={setText} bad={odd} wide />
          </div>
          {data && !error && (
            <div className="mt-2.5 flex flex-wrap gap-6">
              <Answer value={`${data.tension.toFixed(0)} N`} name={`at ${f.text.frequency} Hz`} />
              <Answer value={`${data.least.toFixed(0)} to ${data.most.toFixed(0)} N`} name="inside the window" />
            </div>
          )}
          <p className="mt-2 max-w-[52ch] text-small text-ink-2">
            The belt is taken for a string: its bending stiffness is neglected, which makes a short thick run read high.
            {data?.short && (
              <span className="font-[650] text-clash"> This run is short; expect less tension than the note says.</span>
            )}
          </p>
          <Wrong error={error} fields={odd ? ["readings"] : f.wrong} />
        </div>
        {j && data && !error && (
          <div>
            <p className={`text-lead font-[650] ${j.verdict === "accept" ? "text-held" : "text-clash"}`}>
              {j.verdict === "accept" ? "✓ Accept" : `✕ ${j.verdict.charAt(0).toUpperCase()}${j.verdict.slice(1)}`}
              <span className="font-normal text-ink-2">: {j.why}</span>
            </p>
            <div className="mt-1.5 flex flex-wrap gap-6">
              <Answer value={`${j.mean.toFixed(1)} Hz`} name={`mean of ${j.n}`} />
              <Answer value={`±${j.error.toFixed(1)} Hz`} name="95 % of the mean" />
              <Answer value={`${j.spread.toFixed(1)} Hz`} name="spread" />
              <Answer value={`${minus(j.drift, 1)} Hz`} name="from one to the next" tone={j.drifts ? "clash" : undefined} />
              {j.outliers.length > 0 && (
                <Answer
                  value={`${j.outliers.map((i) => readings[i]).join(", ")} Hz`}
                  name={`does not belong to the rest; without it ${j.without?.toFixed(1)} Hz`}
                  tone="clash"
                />
              )}
            </div>
            {j.n < 7 && j.n >= 3 && (
              <p className="mt-1 text-small text-ink-2">
                Whether one reading is odd is tested from seven readings on (Grubbs); all {j.n} count.
              </p>
            )}
            <ReadingsPlot readings={readings} judged={j} from={data.from} to={data.to} />
          </div>
        )}
        {!j && <p className="self-center text-ink-2">Type three readings or more, with spaces between them.</p>}
      </div>
    </Box>
  );
}

/** What speaks against a torque, in words. */
const against = {
  breaks: "The bolt breaks, whatever is on its thread",
  yields: "The bolt yields, whatever is on its thread, and no angle follows",
  slack: "This hardly holds anything",
};

function Clamp() {
  const [typed, setTyped] = useState({ thread: "M10", class: "10.9", lubrication: "dry", torque: "52 N·m", across: "" });
  const across = figure(typed.across) ?? 0;
  const body = { ...typed, across: Number.isNaN(across) ? -1 : across };
  const { data, error } = useQuery({
    queryKey: ["clamp", body],
    queryFn: () => ask(api.POST("/api/arithmetic/clamp", { body })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const { data: fields } = useQuery(sheetFields);
  const offered = (key: string) => [
    ["", "not said"],
    ...(fields?.find((f) => f.list === "fasteners" && f.key === key)?.choices ?? []).map((c) => [c, c]),
  ];
  const put = (k: keyof typeof typed) => (v: string) => setTyped((t) => ({ ...t, [k]: v }));
  const at = ((error as Failure | undefined)?.body as { field?: string } | undefined)?.field;
  const choose = (k: "class" | "lubrication", name: string, of: string[][]) => (
    <label className="w-[96px] flex-auto max-w-[130px]">
      <span className="label truncate">{name}</span>
      <select className="field" value={typed[k]} onChange={(e) => put(k)(e.target.value)}>
        {of.map(([v, n]) => (
          <option key={v} value={v}>
            {n}
          </option>
        ))}
      </select>
    </label>
  );
  const ends = (e: S["Ends"], d: number) => `${e.low.toFixed(d)} to ${e.high.toFixed(d)}`;
  const wrong = data?.verdict ? against[data.verdict] : undefined;
  return (
    <Box
      title="What a torque does to a bolt"
      says="Most of a torque is friction, so that one torque gives a band of clamp loads: the least where thread and head are driest, the greatest where they slide best."
    >
      <div className="grid gap-x-10 gap-y-3 lg:grid-cols-[minmax(0,38%)_minmax(0,1fr)]">
        <div>
          <div className="flex flex-wrap gap-2.5">
            <Input name="Thread" value={typed.thread} onChange={put("thread")} bad={at === "thread"} />
            {choose("class", "Class", offered("class"))}
            {choose("lubrication", "Lubrication", offered("lubricant"))}
            <Input name="Torque" value={typed.torque} onChange={put("torque")} bad={at === "torque"} />
            <Input name="Across" unit="mm" value={typed.across} onChange={put("across")} bad={at === "across"} />
          </div>
          {data && !error && (
            <>
              <div className="mt-2.5 grid w-max grid-cols-2 gap-x-8 gap-y-2">
                <Answer value={`${ends(data.clamp, 1)} kN`} name="clamp load" />
                <Answer value={ends(data.ofYield, 2)} name="of yield" tone={wrong ? "clash" : "held"} />
                <Answer value={`${ends(data.yields, 0)} N·m`} name="yields from, at the latest at" />
                <Answer value={`${ends(data.breaks, 0)} N·m`} name="breaks from, at the latest at" />
              </div>
              {wrong && (
                <p className="mt-2 font-[650] text-clash">
                  ✕ {wrong}.{data.meant.length > 0 && ` ${data.meant.slice(0, 3).join(", or ")} meant?`}
                </p>
              )}
              <p className="mt-2 max-w-[56ch] text-small text-ink-2">
                {data.thread}: {data.area.toFixed(1)} mm² under stress, class {data.class}
                {typed.class === "" && ", the strongest there is"}, proof load {data.proof.toFixed(1)} kN. Friction{" "}
                {data.friction.low.toFixed(2)} to {data.friction.high.toFixed(2)} in thread and under the head, K{" "}
                {ends(data.k, 2)}. Bands of friction are of VDI 2230 for dry and oiled, assumptions of ours for the rest.
              </p>
            </>
          )}
          <Wrong error={error} fields={[]} />
        </div>
        {data && !error && <ClampPlot data={data} />}
      </div>
    </Box>
  );
}

function Convert() {
  const [value, setValue] = useState("39 ±2 N·m");
  const { data, error } = useQuery({
    queryKey: ["convert", value],
    queryFn: () => ask(api.POST("/api/arithmetic/convert", { body: { value } })),
    enabled: value.trim() !== "",
    placeholderData: keepPreviousData,
    retry: false,
  });
  return (
    <Box
      title="A value in other units"
      says="A torque, an angle, a length, a time, a temperature or a volume, with its tolerance; a torque also as it can be set."
    >
      <div className="flex flex-wrap items-start gap-x-8 gap-y-3">
        <div className="flex w-[150px]">
          <Input name="Value" value={value} onChange={setValue} bad={error !== null} wide />
        </div>
        {data && !error && (
          <div className="flex flex-wrap gap-x-8 gap-y-2">
            {data.same.slice(1).map((c) => (
              <Answer key={c.is} value={c.is} name={c.set ? `set to ${c.set}` : data.kind} />
            ))}
            {data.same.length === 1 && <p className="text-ink-2">There is no other unit for it here.</p>}
          </div>
        )}
      </div>
      <Wrong error={error} fields={[]} />
    </Box>
  );
}

const metals = ["steel", "cast iron", "aluminium", "magnesium"] as const;

function Joint() {
  const [typed, setTyped] = useState({ thread: "M12×1.25", class: "10.9", lubrication: "oiled", spec: "50 N·m + 90°" });
  const [clamped, setClamped] = useState<(typeof metals)[number] | "">("steel");
  const [into, setInto] = useState<(typeof metals)[number] | "">("aluminium");
  const f = useFigures({ grip: "42", plain: "", engaged: "22" });
  const length = (k: "grip" | "plain" | "engaged") => (f.text[k].trim() === "" ? undefined : f.numbers[k]);
  const wrong = f.wrong.filter((k) => f.text[k].trim() !== "");
  const fastener: S["Fastener"] = {
    id: "bolt",
    name: "bolt",
    count: 1,
    thread: typed.thread,
    class: typed.class,
    lubricant: typed.lubrication,
    clamped,
    into,
    grip: length("grip"),
    plain: length("plain"),
    engaged: length("engaged"),
  };
  const { data, error } = useCourse(fastener, typed.spec, [], wrong.length === 0);
  const { data: fields } = useQuery(sheetFields);
  const offered = (key: string) => [
    ["", "not said"],
    ...(fields?.find((o) => o.list === "fasteners" && o.key === key)?.choices ?? []).map((c) => [c, c]),
  ];
  const put = (k: keyof typeof typed) => (v: string) => setTyped((t) => ({ ...t, [k]: v }));
  const choose = (name: string, value: string, of: string[][], set: (v: string) => void) => (
    <label className="w-[96px] max-w-[130px] flex-auto">
      <span className="label truncate">{name}</span>
      <select className="field" value={value} onChange={(e) => set(e.target.value)}>
        {of.map(([v, n]) => (
          <option key={v} value={v}>
            {n}
          </option>
        ))}
      </select>
    </label>
  );
  const metal = [["", "not said"], ...metals.map((m) => [m, m])];
  const at = ((error as Failure | null)?.body as { field?: string } | undefined)?.field;
  const known = data && !error && !data.trouble;
  return (
    <Box
      title="What an angle does to a bolt in its joint"
      says="Behind its torque a bolt is drawn out by its own pitch: how far that takes it rests on what is clamped. The end is dragged, or typed."
    >
      <div className="grid gap-x-10 gap-y-3 lg:grid-cols-[minmax(0,38%)_minmax(0,1fr)]">
        <div>
          <div className="flex flex-wrap gap-2.5">
            <Input name="Thread" value={typed.thread} onChange={put("thread")} />
            {choose("Class", typed.class, offered("class"), put("class"))}
            {choose("Lubrication", typed.lubrication, offered("lubricant"), put("lubrication"))}
          </div>
          <div className="mt-2.5 flex">
            <Input name="Tightened to" value={typed.spec} onChange={put("spec")} bad={at === "spec"} wide />
          </div>
          <div className="mt-2.5 flex flex-wrap gap-2.5">
            <Input name="Clamped" unit="mm" {...f.field("grip")} bad={wrong.includes("grip")} />
            <Input name="Shank" unit="mm" {...f.field("plain")} bad={wrong.includes("plain")} />
            {choose("Clamps", clamped, metal, (v) => setClamped(v as typeof clamped))}
            <Input name="Engaged" unit="mm" {...f.field("engaged")} bad={wrong.includes("engaged")} />
            {choose("Screwed into", into, metal, (v) => setInto(v as typeof into))}
          </div>
          {data && !error && (
            <>
              <p className="mt-3 font-[650]">{data.title || data.trouble}</p>
              {known && data.points.length > 0 && (
                <div className="mt-1.5 flex flex-wrap gap-x-8 gap-y-2">
                  <Answer
                    value={`${data.final.low.toFixed(1)} to ${data.final.high.toFixed(1)} kN`}
                    name={data.reuse ? "tight" : "after the torque"}
                  />
                  {data.turned > 0 && data.set.high > 0 && (
                    <Answer value={`${data.set.low.toFixed(2)} to ${data.set.high.toFixed(2)} mm`} name="stays longer by" />
                  )}
                </div>
              )}
              {data.notes.map((n) => (
                <p key={n} className="mt-1.5 max-w-[56ch] text-small text-ink-2">
                  {n}
                </p>
              ))}
            </>
          )}
          <Wrong error={error} fields={wrong} />
        </div>
        {known && data.points.length > 0 && (
          <div>
            <CoursePicture course={data} name="bolt" onTry={data.reuse ? (v) => put("spec")(become(typed.spec, v)) : undefined} />
          </div>
        )}
      </div>
    </Box>
  );
}

function Wrench() {
  const [torque, setTorque] = useState("120 N·m");
  const f = useFigures({ length: "400", reach: "45", angle: "0", ratio: "", efficiency: "0.92", full: "140" });
  // A multiplier or a full scale that is left empty is none.
  const wrong = f.wrong.filter((k) => !((k === "ratio" || k === "full" || k === "reach") && f.text[k].trim() === ""));
  const body = { torque, ...f.numbers };
  const { data, error } = useQuery({
    queryKey: ["wrench", body],
    queryFn: () => ask(api.POST("/api/arithmetic/wrench", { body })),
    enabled: wrong.length === 0,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const field = (k: Parameters<typeof f.field>[0]) => ({ ...f.field(k), bad: wrong.includes(k) });
  return (
    <Box
      title="What the wrench is set to"
      says="An adapter makes the lever longer, a multiplier gears it down: the wrench shows less than comes to the bolt."
    >
      <div className="grid gap-x-10 gap-y-3 lg:grid-cols-[minmax(0,38%)_minmax(0,1fr)]">
        <div className="flex flex-wrap gap-2.5">
          <Input name="Torque" value={torque} onChange={setTorque} />
          <Input name="Wrench" unit="mm" {...field("length")} />
          <Input name="Adapter" unit="mm" {...field("reach")} />
          <Input name="Angle" unit="°" {...field("angle")} />
          <Input name="Multiplier" unit="to 1" {...field("ratio")} />
          <Input name="Lets through" unit="share" {...field("efficiency")} />
          <Input name="Full scale" unit="N·m" {...field("full")} />
        </div>
        <div>
          {data && !error && (
            <>
              <div className="flex flex-wrap gap-6">
                {data.set.map((v) => (
                  <Answer key={v} value={v} name="on the wrench" tone={data.trouble ? "clash" : undefined} />
                ))}
              </div>
              <p className="mt-2">
                {data.trouble ? (
                  <b className="font-[650] text-clash">✕ This wrench does not do it: {data.trouble}.</b>
                ) : (
                  <>
                    For each N·m it shows, {data.gives.toFixed(data.gives < 10 ? 3 : 1)} come to the bolt. Each setting lies
                    within the tolerance of the value.
                  </>
                )}
              </p>
            </>
          )}
          <Wrong error={error} fields={wrong} />
          <p className="mt-2 max-w-[60ch] text-small text-ink-2">
            The wrench is measured from the middle of its grip to its square, the adapter from there to the bolt; 0° is in line,
            90° square to it, where nothing changes. A multiplier’s share is on its plate.
          </p>
        </div>
      </div>
    </Box>
  );
}
