import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { api, ask, type Failure, type S } from "../../api/client";
import { whereUsed } from "../../api/queries";
import { CoursePicture } from "../../drawing/CoursePicture";
import { type Fastener, set } from "./sheet";
import type { SheetDraft } from "./useSheet";

const conditions = ["dry", "oiled", "greased", "thread lock"];

/** useCourse asks what stages do to a fastener; the answer before it stays until the new one is there. */
export function useCourse(fastener: Fastener, spec: string, tools: S["Tool"][], enabled = true) {
  const body = { fastener, spec, tools };
  return useQuery({
    queryKey: ["course", body],
    queryFn: () => ask(api.POST("/api/arithmetic/course", { body })),
    placeholderData: keepPreviousData,
    retry: false,
    enabled,
  });
}

const ends = (e: S["Ends"], d = 0) => `${e.low.toFixed(d)} to ${e.high.toFixed(d)}`;

/** become puts a figure in place of the first one of the last stage: 60 N·m + 90 ±5° becomes 60 N·m + 95 ±5°. */
export function become(spec: string, to: number) {
  const at = spec.lastIndexOf("+") + 1;
  return spec.slice(0, at) + spec.slice(at).replace(/\d[\d \u202f.,–]*\d|\d/, String(to));
}

/** ends of a bolt in the colour of how it ends */
const tone = (c: S["CourseAnswer"], single?: boolean) => {
  if (c.verdict === "breaks" || c.verdict === "yields" || c.reuse === "breaks") return "text-clash";
  if (c.reuse === "past yield" && !single) return "text-clash";
  if (c.verdict || c.reuse === "may be past yield") return "text-ink";
  return c.reuse ? "text-held" : "text-ink";
};

/** BoltDepth is one fastener in depth: its load through its stages, what goes wrong with it, what tightens and holds it, and where it stands. */
export function BoltDepth({ draft, fastener }: { draft: SheetDraft; fastener: Fastener }) {
  const { sheet, meta } = draft.view;
  const [tried, setTried] = useState("");
  const [beside, setBeside] = useState("");
  // biome-ignore lint/correctness/useExhaustiveDependencies: another bolt, or another value on the sheet, ends what was tried
  useEffect(() => setTried(""), [fastener.id, JSON.stringify(fastener.spec)]);
  const { data, error } = useCourse(fastener, tried, sheet.tools ?? []);
  const { data: other } = useCourse({ ...fastener, lubricant: beside }, tried, [], beside !== "");
  const at = `fasteners/${fastener.id}`;
  const of = (sheet.varies ?? []).filter((v) => v.of === `${at}/spec`).map((v) => v.id);
  const cases = draft.view.derived.cases
    .filter((c) => of.includes(c.id))
    .flatMap((c) => c.lines)
    .filter((l) => l.then !== "not fitted");
  const wrong = (error as Failure | undefined)?.message;
  const known = data && !data.trouble;
  const drawn = known && data.points.length > 0 && (data.turned > 0 || data.torque > 0);
  const on = tried !== "" && data && tried !== "" && !wrong;
  return (
    <section aria-label={`The ${fastener.name} in depth`} className="under-row beside-table grid gap-x-7 gap-y-4 pt-2 pb-1">
      <div>
        <h3 className={`text-body font-[650] ${known ? tone(data, fastener.singleUse) : ""}`}>
          {data ? data.title || data.trouble : "\u00a0"}
        </h3>
        <div className="mt-1.5 flex flex-wrap items-end gap-2.5">
          <label className="w-[190px]">
            <span className="label">Try</span>
            <input
              className="field font-mono"
              value={tried || data?.spec || ""}
              aria-invalid={wrong !== undefined}
              onChange={(e) => setTried(e.target.value)}
              onKeyDown={(e) => {
                if (e.key === "Escape" && tried) {
                  e.stopPropagation();
                  setTried("");
                }
              }}
            />
          </label>
          <label>
            <span className="label">Beside it</span>
            <select className="field" value={beside} onChange={(e) => setBeside(e.target.value)}>
              <option value="">nothing</option>
              {conditions.map((c) => (
                <option key={c} value={c}>
                  {c}
                </option>
              ))}
            </select>
          </label>
          {on && (
            <span className="flex gap-2">
              {meta.editable && !cases.some((c) => c.then === tried) && (
                <button type="button" className="button solid" onClick={() => draft.save([set(`${at}/spec`, tried)])}>
                  Put it on the sheet
                </button>
              )}
              <button type="button" className="button quiet" onClick={() => setTried("")}>
                Back to the sheet’s
              </button>
            </span>
          )}
        </div>
        {wrong && <p className="mt-1 text-small text-clash">{wrong}</p>}
        {cases.length > 0 && (
          <p className="mt-1.5 text-small">
            <span className="text-ink-2">On some engines: </span>
            {cases.map((c, i) => (
              <span key={c.says}>
                {i > 0 && "; "}
                <button type="button" className="link" aria-pressed={tried === c.then} onClick={() => setTried(c.then)}>
                  {c.says}: <span className="font-mono">{c.then}</span>
                </button>
              </span>
            ))}
          </p>
        )}
        {drawn && (
          <div className="mt-2">
            <CoursePicture
              course={data}
              beside={beside && other && !other.trouble && other.points.length > 0 ? other : undefined}
              name={fastener.name}
              onTry={
                data.reuse || data.turned > 0 || !data.spec.includes("+")
                  ? (v) => setTried(become(tried || data.spec, v))
                  : undefined
              }
            />
          </div>
        )}
        {data?.notes.map((n) => (
          <p key={n} className="mt-1 max-w-[70ch] text-small text-ink-2">
            {n}
          </p>
        ))}
      </div>
      <div className="grid content-start gap-3.5">
        {drawn && (
          <dl className="grid grid-cols-[repeat(auto-fit,minmax(104px,1fr))] gap-x-5 gap-y-2">
            {data.turned > 0 && data.seated.high > 0 && <Figure name="after the torque" value={`${ends(data.seated)} kN`} />}
            <Figure
              name={data.reuse || !data.spec.includes("+") ? "tight" : "after the torque"}
              value={`${ends(data.final, data.final.high < 20 ? 1 : 0)} kN`}
            />
            {data.turned > 0 && data.set.high > 0 && <Figure name="stays longer by" value={`${ends(data.set, 2)} mm`} />}
            {data.turned > 0 && data.set.high > 0 && (
              <Figure
                name="of its stretch"
                value={`${(data.used.low * 100).toFixed(0)} to ${(data.used.high * 100).toFixed(0)} %`}
              />
            )}
            {beside && other && !other.trouble && (
              <Figure name={`if ${beside}`} value={`${ends(other.final, other.final.high < 20 ? 1 : 0)} kN`} />
            )}
          </dl>
        )}
        {data && data.meant.length > 0 && (
          <p className="text-small">
            Meant was{" "}
            {data.meant.map((m, i) => (
              <span key={m}>
                {i > 0 && ", or "}
                <button type="button" className="link font-mono" onClick={() => setTried(m)}>
                  {m}
                </button>
              </span>
            ))}
            ?
          </p>
        )}
        {data && data.otherwise.length > 0 && (
          <Part name="If it goes wrong">
            {data.otherwise.map((o) => (
              <tr key={o.says}>
                <td>{o.says}</td>
                <td className="num whitespace-nowrap">{ends(o.final, o.final.high < 20 ? 1 : 0)} kN</td>
                <td
                  className={`whitespace-nowrap ${o.reuse === data.reuse || o.reuse === "springs back" ? "text-ink-2" : "text-clash"}`}
                >
                  {o.reuse === data.reuse || o.reuse === "springs back" ? changed(o, data) : o.reuse}
                </td>
              </tr>
            ))}
          </Part>
        )}
        {data && (data.wrench.length > 0 || data.units.length > 0) && (
          <Part name="On the wrench">
            {data.wrench.map((w) => (
              <tr key={w.tool + w.name + w.with}>
                <td>
                  {w.with && <span className="text-ink-2">with {w.with}: </span>}
                  {w.tool} {w.name}
                </td>
                <td className="num whitespace-nowrap">{w.shows}</td>
                <td className={w.why ? "text-clash" : "text-ink-2"}>{w.why || `${w.share.toFixed(0)} % of its scale`}</td>
              </tr>
            ))}
            {data.wrench.length === 0 && (
              <tr>
                <td colSpan={3} className="text-ink-2">
                  No tool of the sheet has a range of torque.
                </td>
              </tr>
            )}
            {data.units.map((u) => (
              <tr key={u}>
                <td colSpan={3} className="num !text-left text-ink-2">
                  {u}
                </td>
              </tr>
            ))}
          </Part>
        )}
        <Against draft={draft} fastener={fastener} />
        <Stands code={meta.code} fastener={fastener} />
      </div>
    </section>
  );
}

/** changed says of a bolt that went wrong, and that nothing else tells from a right one, what its load is. */
function changed(o: S["Otherwise"], c: S["CourseAnswer"]) {
  if (c.final.high <= 0) return "";
  const share = (o.final.low + o.final.high) / (c.final.low + c.final.high);
  return Math.abs(share - 1) > 0.1 ? `${(share * 100).toFixed(0)} % of its load` : "its load, nearly";
}

const Figure = ({ name, value }: { name: string; value: string }) => (
  <div>
    <dd className="font-[650] whitespace-nowrap">{value}</dd>
    <dt className="text-fine text-ink-2">{name}</dt>
  </div>
);

function Part({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <div>
      <h4 className="mb-0.5 text-small font-[650]">{name}</h4>
      <table className="facts w-full text-small">
        <tbody>{children}</tbody>
      </table>
    </div>
  );
}

/** Against is what holds against the torque of a bolt that turns a shaft. */
function Against({ draft, fastener }: { draft: SheetDraft; fastener: Fastener }) {
  const { sheet } = draft.view;
  if (!fastener.onShaft) return null;
  const lock = (sheet.locks ?? []).find((l) => l.id === fastener.holdWith);
  const tool = (sheet.tools ?? []).find((t) => t.id === lock?.tool);
  const pins = (sheet.locks ?? []).filter((l) => !l.carriesTorque).map((l) => l.name);
  return (
    <Part name="Holds against it">
      <tr>
        <td>{lock ? `${lock.name}${tool ? ` ${tool.number}` : ""}` : "nothing is named"}</td>
        <td className={lock?.carriesTorque ? "text-held" : "text-clash"}>
          {lock ? (lock.carriesTorque ? "carries torque" : "carries none") : "the shaft turns with it"}
        </td>
        <td className="text-ink-2">
          {pins.length > 0 && `${pins.slice(0, 2).join(", ")}${pins.length > 2 ? " …" : ""} must not`}
        </td>
      </tr>
    </Part>
  );
}

/** Stands is how many steps of how many procedures name it. */
function Stands({ code, fastener }: { code: string; fastener: Fastener }) {
  const { data } = useQuery(whereUsed(fastener.name, "fastener", code));
  return (
    <p className="text-small">
      <Link to="/where" search={{ q: fastener.name, kind: "fastener", engine: code }} className="link">
        Where it stands
      </Link>
      {data && <span className="text-ink-2">: {says(data)}</span>}
    </p>
  );
}

function says(d: S["WhereUsed"]) {
  const pages = d.pages.filter((p) => p.revision !== undefined);
  const places = pages.reduce((n, p) => n + p.places.length, 0);
  if (pages.length === 0) return "in no procedure";
  return `${places} place${places === 1 ? "" : "s"} in ${pages.length} procedure${pages.length === 1 ? "" : "s"}`;
}
