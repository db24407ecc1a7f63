import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type S } from "../../api/client";
import { CoursePicture } from "../../drawing/CoursePicture";
import { Pattern } from "../../drawing/Pattern";

/** Tightened shows what a tightening step does to its fasteners, as it is typed: the load through the stages, the wrench, what holds, the order. */
export function Tightened({ revision, step }: { revision: number; step: S["Step"] }) {
  const [at, setAt] = useState(0);
  const body = { step };
  const { data } = useQuery({
    queryKey: ["bolts", revision, step],
    queryFn: () => ask(api.POST("/api/revisions/{revision}/bolts", { params: { path: { revision } }, body })),
    enabled: step.verb === "tighten",
    placeholderData: keepPreviousData,
    retry: false,
  });
  if (step.verb !== "tighten" || !data || data.length === 0) return null;
  const b = data[Math.min(at, data.length - 1)];
  const c = b.course;
  const bad =
    c.verdict === "breaks" || c.verdict === "yields" || c.reuse === "breaks" || (c.reuse === "past yield" && !b.singleUse);
  const drawn = !c.trouble && c.points.length > 0;
  const wrench = c.wrench[0];
  return (
    <section aria-label="What this does to the bolt" className="mt-2 flex flex-wrap gap-x-5 gap-y-2 border-t border-rule pt-2">
      {drawn && (
        <div className="w-[272px] max-w-full flex-none">
          <CoursePicture course={c} name={b.name} height={168} />
        </div>
      )}
      <div className="min-w-[200px] flex-1 text-small">
        {data.length > 1 && (
          <div className="mb-1 flex flex-wrap gap-1" role="group" aria-label="Which of them">
            {data.map((o, i) => (
              <button
                key={o.fastener}
                type="button"
                className="button slim"
                data-on={o === b}
                aria-pressed={o === b}
                onClick={() => setAt(i)}
              >
                {o.name}
              </button>
            ))}
          </div>
        )}
        <p className={`text-body font-[650] ${bad ? "text-clash" : ""}`}>{c.title || c.trouble}</p>
        {c.meant.length > 0 && <p className="text-clash">{c.meant.slice(0, 2).join(", or ")} meant?</p>}
        <dl className="mt-1 grid grid-cols-[max-content_minmax(0,1fr)] gap-x-3 gap-y-0.5">
          {drawn && (
            <Fact name="Clamp load">
              {c.final.low.toFixed(c.final.high < 20 ? 1 : 0)} to {c.final.high.toFixed(c.final.high < 20 ? 1 : 0)} kN
              {!c.reuse && c.spec.includes("+") && " before the angle"}
            </Fact>
          )}
          {c.units.map((u) => (
            <Fact key={u} name="Also">
              {u}
            </Fact>
          ))}
          {wrench && (
            <Fact name="Wrench">
              {wrench.why ? (
                <span className="text-clash">none on the sheet: {wrench.why}</span>
              ) : (
                `${wrench.tool} ${wrench.name}${wrench.with ? ` with the ${wrench.with}: ${wrench.shows}` : ""}, ${wrench.share.toFixed(0)} % of its scale`
              )}
            </Fact>
          )}
          {(b.held || b.unheld) && (
            <Fact name="Held with">{b.held || <span className="text-clash">nothing: the shaft turns with it</span>}</Fact>
          )}
          {b.count > 1 && <Fact name="Order">{b.pattern || <span className="text-ink-2">none said for {b.count}</span>}</Fact>}
        </dl>
        {b.places.length > 0 && <Pattern places={b.places} name={b.name} width={150} />}
      </div>
    </section>
  );
}

const Fact = ({ name, children }: { name: string; children: React.ReactNode }) => (
  <>
    <dt className="text-ink-2">{name}</dt>
    <dd>{children}</dd>
  </>
);
