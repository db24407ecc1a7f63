import type { S } from "../../api/client";

const W = 640;

/** DropsPlot is the piston's drop over the crank angle, with the two readings and their middle. */
export function DropsPlot({
  data,
  drop,
  before,
  after,
}: {
  data: S["DropsAnswer"];
  drop: number;
  before: number;
  after: number;
}) {
  const h = 176;
  const pad = { l: 44, r: 12, t: 22, b: 26 };
  // The curve stands about its own top; the wheel's zero may be anywhere.
  const shift = data.top;
  const xs = data.degrees.map((d) => d - (data.degrees[0] + data.degrees[data.degrees.length - 1]) / 2 + shift);
  const lo = Math.min(xs[0], before);
  const hi = Math.max(xs[xs.length - 1], after > before ? after : before + data.span);
  const deep = Math.max(...data.drops);
  const x = (v: number) => pad.l + ((v - lo) / (hi - lo)) * (W - pad.l - pad.r);
  const y = (v: number) => pad.t + (v / deep) * (h - pad.t - pad.b);
  const path = xs.map((v, i) => `${i ? "L" : "M"}${x(v).toFixed(1)} ${y(data.drops[i]).toFixed(1)}`).join("");
  const end = before + data.span;
  const step = hi - lo > 120 ? 30 : hi - lo > 60 ? 20 : 10;
  const ticks = Array.from(
    { length: Math.floor(hi / step) - Math.ceil(lo / step) + 1 },
    (_, i) => (Math.ceil(lo / step) + i) * step,
  );
  return (
    <svg
      viewBox={`0 0 ${W} ${h}`}
      className="mt-2 w-full max-w-[720px]"
      role="img"
      aria-label={`Piston drop over the crank: equal drops of ${drop} mm at ${before} and ${end.toFixed(1)} degrees, top dead centre at ${data.top.toFixed(2)}`}
    >
      {ticks.map((t) => (
        <g key={t}>
          <path d={`M${x(t)} ${pad.t}V${h - pad.b}`} stroke="var(--color-rule)" strokeWidth="0.7" />
          <text x={x(t)} y={h - 10} textAnchor="middle" fontSize="var(--text-fine)" fill="var(--color-ink-2)">
            {String(t).replace("-", "−")}°
          </text>
        </g>
      ))}
      {[0, 0.5, 1].map((k) => (
        <text key={k} x={pad.l - 7} y={y(deep * k) + 4} textAnchor="end" fontSize="var(--text-fine)" fill="var(--color-ink-2)">
          {(deep * k).toFixed(deep < 10 ? 1 : 0)}
        </text>
      ))}
      <text x={pad.l - 7} y={11} textAnchor="end" fontSize="var(--text-fine)" fill="var(--color-ink-2)">
        mm
      </text>
      <rect
        x={x(data.top - data.uncertainty)}
        y={pad.t - 6}
        width={Math.max(2, x(data.top + data.uncertainty) - x(data.top - data.uncertainty))}
        height={h - pad.t - pad.b + 6}
        fill="var(--color-held-wash)"
      />
      <path d={path} fill="none" stroke="var(--color-ink)" strokeWidth="2" />
      {drop > 0 && drop < deep && (
        <path d={`M${x(before)} ${y(drop)}H${x(end)}`} stroke="var(--color-marking)" strokeWidth="1.2" strokeDasharray="4 4" />
      )}
      {[before, end].map((v) => (
        <circle key={v} cx={x(v)} cy={y(Math.min(drop, deep))} r="4.5" fill="var(--color-marking)" />
      ))}
      <path d={`M${x(data.top)} ${pad.t - 8}V${h - pad.b}`} stroke="var(--color-held)" strokeWidth="1.6" />
      <text x={x(data.top) + 6} y={pad.t - 9} fontSize="var(--text-fine)" fontWeight="650" fill="var(--color-held)">
        TDC {data.top.toFixed(2).replace("-", "−")}° ±{data.uncertainty.toFixed(2)}°
      </text>
    </svg>
  );
}

/** ReadingsPlot is the readings one after another against the window, with mean and drift. */
export function ReadingsPlot({
  readings,
  judged,
  from,
  to,
}: {
  readings: number[];
  judged: S["Judged"];
  from: number;
  to: number;
}) {
  const h = 168;
  const pad = { l: 44, r: 74, t: 10, b: 24 };
  const all = [...readings, from, to];
  const margin = (Math.max(...all) - Math.min(...all)) * 0.12 + 0.5;
  const lo = Math.min(...all) - margin;
  const hi = Math.max(...all) + margin;
  const x = (i: number) => pad.l + ((i + 0.5) / readings.length) * (W - pad.l - pad.r);
  const y = (v: number) => pad.t + ((hi - v) / (hi - lo)) * (h - pad.t - pad.b);
  const out = new Set(judged.outliers);
  return (
    <svg
      viewBox={`0 0 ${W} ${h}`}
      className="mt-2 w-full max-w-[720px]"
      role="img"
      aria-label={`Readings ${readings.join(", ")} Hz against ${from} to ${to}; mean ${judged.mean.toFixed(1)}`}
    >
      <rect x={pad.l} y={y(to)} width={W - pad.l - pad.r} height={y(from) - y(to)} fill="var(--color-held-wash)" />
      {[from, to].map((v) => (
        <g key={v}>
          <path d={`M${pad.l} ${y(v)}H${W - pad.r}`} stroke="var(--color-held)" strokeWidth="1" />
          <text x={pad.l - 7} y={y(v) + 4} textAnchor="end" fontSize="var(--text-fine)" fill="var(--color-held)">
            {v.toFixed(0)}
          </text>
        </g>
      ))}
      {judged.n >= 3 && (
        <g>
          <path
            d={`M${pad.l} ${y(judged.mean)}H${W - pad.r}`}
            stroke="var(--color-ink)"
            strokeWidth="1.2"
            strokeDasharray="6 4"
          />
          <path
            d={`M${W - pad.r + 7} ${y(judged.mean - judged.error)}V${y(judged.mean + judged.error)}M${W - pad.r + 3} ${y(judged.mean - judged.error)}h8M${W - pad.r + 3} ${y(judged.mean + judged.error)}h8`}
            stroke="var(--color-ink)"
            strokeWidth="1.4"
          />
          <text x={W - pad.r + 16} y={y(judged.mean) + 4} fontSize="var(--text-fine)" fontWeight="650">
            {judged.mean.toFixed(1)}
          </text>
        </g>
      )}
      <path
        d={readings
          .map((v, i) => ({ v, i }))
          .filter(({ i }) => !out.has(i))
          .map(({ v, i }, k) => `${k ? "L" : "M"}${x(i)} ${y(v)}`)
          .join("")}
        fill="none"
        stroke={judged.drifts ? "var(--color-clash)" : "var(--color-ink-3)"}
        strokeWidth="1.2"
      />
      {readings.map((v, i) => (
        <g key={i}>
          {out.has(i) ? (
            <path d={`M${x(i) - 4} ${y(v) - 4}l8 8m0 -8l-8 8`} stroke="var(--color-clash)" strokeWidth="1.8" />
          ) : (
            <circle
              cx={x(i)}
              cy={y(v)}
              r="4.5"
              fill={v >= from && v <= to ? "var(--color-marking)" : "var(--white)"}
              stroke="var(--color-marking)"
              strokeWidth="1.5"
            />
          )}
          <text x={x(i)} y={h - 8} textAnchor="middle" fontSize="var(--text-fine)" fill="var(--color-ink-2)">
            {i + 1}
          </text>
        </g>
      ))}
    </svg>
  );
}

/** ClampPlot is the clamp load over the torque, at the least and at the greatest friction, up to where the bolt yields. */
export function ClampPlot({ data }: { data: S["ClampAnswer"] }) {
  const h = 232;
  const pad = { l: 44, r: 12, t: 24, b: 34 };
  const most = Math.max(data.yields.high * 1.12, Math.min(data.torque * 1.15, data.breaks.high * 1.3));
  const deep = data.yieldLoad.high * 1.15;
  const x = (v: number) => pad.l + (Math.min(v, most) / most) * (W - pad.l - pad.r);
  const y = (v: number) => h - pad.b - (Math.min(v, deep) / deep) * (h - pad.t - pad.b);
  const every = [1, 2, 5, 10, 20, 25, 50, 100, 200, 250, 500, 1000].find((s) => most / s <= 7) ?? 1000;
  const loads = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 25, 50, 100, 200, 500].find((s) => deep / s <= 5) ?? 500;
  const steps = (to: number, by: number) => Array.from({ length: Math.floor(to / by) + 1 }, (_, i) => i * by);
  const small = { fontSize: "var(--text-fine)", fill: "var(--color-ink-2)" };
  const wrong = data.verdict !== "";
  const band = `M${x(0)} ${y(0)}L${x(data.yields.low)} ${y(data.yieldLoad.high)}L${x(data.yields.high)} ${y(data.yieldLoad.low)}Z`;
  const ink = wrong ? "var(--color-clash)" : "var(--color-marking)";
  return (
    <svg
      viewBox={`0 0 ${W} ${h}`}
      className="w-full max-w-[720px] self-start"
      role="img"
      aria-label={`Clamp load over the torque: ${data.clamp.low.toFixed(1)} to ${data.clamp.high.toFixed(1)} kilonewtons at ${data.torque} newton metres; the bolt yields between ${data.yields.low.toFixed(0)} and ${data.yields.high.toFixed(0)}`}
    >
      {steps(deep, loads).map((v) => (
        <g key={v}>
          <path d={`M${pad.l} ${y(v)}H${W - pad.r}`} stroke="var(--color-rule)" strokeWidth="0.7" />
          <text x={pad.l - 7} y={y(v) + 4} textAnchor="end" {...small}>
            {Number(v.toFixed(1))}
          </text>
        </g>
      ))}
      <text x={pad.l - 7} y={11} textAnchor="end" {...small}>
        kN
      </text>
      {steps(most, every).map((v) => (
        <text key={v} x={x(v)} y={h - 18} textAnchor="middle" {...small}>
          {v}
        </text>
      ))}
      <text x={W - pad.r} y={h - 4} textAnchor="end" {...small}>
        N·m on the wrench
      </text>
      <path d={band} fill="var(--color-marking-wash)" stroke="var(--color-marking)" strokeWidth="1.2" strokeLinejoin="round" />
      <path
        d={`M${x(data.yields.low)} ${y(data.yieldLoad.high)}L${x(data.yields.high)} ${y(data.yieldLoad.low)}`}
        stroke="var(--color-clash)"
        strokeWidth="1.6"
      />
      <text
        x={x((data.yields.low + data.yields.high) / 2) + 8}
        y={y((data.yieldLoad.low + data.yieldLoad.high) / 2) - 6}
        fontSize="var(--text-fine)"
        fill="var(--color-clash)"
      >
        yields
      </text>
      <path d={`M${pad.l} ${y(data.proof)}H${W - pad.r}`} stroke="var(--color-ink)" strokeDasharray="4 3" strokeWidth="0.8" />
      <text x={pad.l + 6} y={y(data.proof) - 4} {...small}>
        proof load {data.proof.toFixed(1)} kN
      </text>
      <path d={`M${x(data.torque)} ${pad.t - 6}V${h - pad.b}`} stroke={ink} strokeWidth="1.2" />
      {!wrong && (
        <path
          d={`M${x(data.torque)} ${y(data.clamp.high)}V${y(data.clamp.low)}`}
          stroke={ink}
          strokeWidth="5"
          strokeLinecap="round"
        />
      )}
      <text
        x={x(data.torque) + (data.torque > most * 0.7 ? -6 : 6)}
        y={pad.t - 8}
        textAnchor={data.torque > most * 0.7 ? "end" : "start"}
        fontSize="var(--text-small)"
        fontWeight="650"
        fill={ink}
      >
        {Number(data.torque.toFixed(1))} N·m{data.torque > most ? " →" : ""}
      </text>
    </svg>
  );
}
