import { Link } from "@tanstack/react-router";
import { useEffect, useRef, useState } from "react";
import type { S } from "../../api/client";

type Plan = S["TurnPlan"];

const left = 236;
const right = 26;
const top = 30;
const row = 40;

/** Picture is the plan itself: marks and locks down the side, counts of crank turns along the top. */
export function Picture({ plan, at, onAt, revision }: { plan: Plan; at: number; onAt: (n: number) => void; revision: number }) {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(1200);
  useEffect(() => {
    if (!box.current) return;
    const o = new ResizeObserver(([e]) => setWidth(Math.max(720, e.contentRect.width)));
    o.observe(box.current);
    return () => o.disconnect();
  }, []);
  const tight = plan.rows.length > 6 ? 33 : row;
  const max = Number(plan.horizon);
  const x = (n: number) => left + (n * (width - left - right)) / Math.max(1, max);
  const loops = plan.returns.length;
  const bottom = top + plan.rows.length * tight + loops * 30;
  const height = bottom + 26 + lanes(plan.legs) * 25;
  const good = plan.counts.filter((c) => c.all);
  const every = width / Math.max(1, max) < 26 ? 2 : 1;
  return (
    <div ref={box} className="mt-3 overflow-x-auto">
      <svg
        width={width}
        height={height}
        viewBox={`0 0 ${width} ${height}`}
        role="img"
        aria-label={describe(plan)}
        className="block"
      >
        {good.map((c) => (
          <rect
            key={c.n}
            x={x(Number(c.n)) - 16}
            y={top - 6}
            width={32}
            height={bottom - top + 6}
            fill="var(--color-held-wash)"
          />
        ))}
        <rect x={x(at) - 16.5} y={4} width={33} height={bottom - 4} fill="none" stroke="var(--color-marking)" strokeWidth="1.5" />
        {plan.counts.map((c) => {
          const n = Number(c.n);
          return (
            <g key={n}>
              {n % every === 0 && (
                <text
                  x={x(n)}
                  y={19}
                  textAnchor="middle"
                  fontSize="var(--text-small)"
                  fontWeight={c.all ? 700 : 500}
                  fill={c.all ? "var(--color-held)" : "var(--color-ink-2)"}
                >
                  {n}
                </text>
              )}
              <rect
                x={x(n) - 17}
                y={0}
                width={34}
                height={bottom}
                fill="transparent"
                className="cursor-pointer"
                onClick={() => onAt(n)}
              />
            </g>
          );
        })}
        {plan.rows.map((r, i) => {
          const y = top + i * tight + tight / 2 - 4;
          const looked = !plan.chosen || r.steps.length > 0;
          return (
            <g key={r.ref} pointerEvents="none">
              <text
                x={0}
                y={y - 1}
                fontSize="var(--text-body)"
                fontWeight={looked ? 650 : 400}
                fill={looked ? "var(--color-ink)" : "var(--color-ink-2)"}
              >
                {clip(r.name.charAt(0).toUpperCase() + r.name.slice(1), 30)}
                {r.stroke && (
                  <tspan fontSize="var(--text-fine)" fontWeight="400" fill="var(--color-ink-2)">
                    {"  "}tells the stroke
                  </tspan>
                )}
              </text>
              <text x={0} y={y + 13} fontSize="var(--text-fine)" fill="var(--color-ink-2)">
                {clip(r.under, 38)}
                {r.steps.length > 0 && `, step ${r.steps.slice(0, 3).join(", ")}`}
              </text>
              <path d={`M${x(0)} ${y}H${x(max)}`} stroke="var(--color-rule)" strokeWidth="1" />
              {r.elsewhere.map((m) => (
                <circle
                  key={m}
                  cx={x(m)}
                  cy={y}
                  r={4.6}
                  fill="var(--color-sheet)"
                  stroke={looked ? "var(--color-ink-2)" : "var(--color-ink-3)"}
                  strokeWidth="1.3"
                />
              ))}
              {r.homes.map((h) => (
                <circle
                  key={h}
                  cx={x(Number(h))}
                  cy={y}
                  r={looked ? 6 : 5}
                  fill={looked ? "var(--color-marking)" : "var(--color-ink-3)"}
                />
              ))}
            </g>
          );
        })}
        {plan.returns.map((r, i) => {
          const y = top + plan.rows.length * tight + i * 30 + 11;
          const back = Number(r.every) <= max;
          return (
            <g key={r.loop} pointerEvents="none">
              <text x={0} y={y + 3} fontSize="var(--text-small)" fill="var(--color-ink-2)">
                {clip(r.name.charAt(0).toUpperCase() + r.name.slice(1), 24)}
              </text>
              <path d={`M${x(0)} ${y}H${x(max)}`} stroke="var(--color-rule)" strokeWidth="1" strokeDasharray="3 4" />
              <rect
                x={x(0) - 5}
                y={y - 5}
                width={10}
                height={10}
                fill="var(--color-paint)"
                stroke="var(--color-paint-edge)"
                strokeWidth="0.7"
              />
              {back && (
                <rect
                  x={x(Number(r.every)) - 5}
                  y={y - 5}
                  width={10}
                  height={10}
                  fill="var(--color-paint)"
                  stroke="var(--color-paint-edge)"
                  strokeWidth="0.7"
                />
              )}
              {!back && (
                <text
                  x={x(max)}
                  y={y - 6}
                  textAnchor="end"
                  fontSize="var(--text-fine)"
                  fontWeight="600"
                  fill="var(--color-clash)"
                >
                  the {r.name} is back after {r.every} turns: its paint proves nothing
                </text>
              )}
            </g>
          );
        })}
        <Legs plan={plan} x={x} y={bottom + 14} />
      </svg>
      <div className="sr-only">
        {plan.legs.map((g) => (
          <Link key={g.step} to="/revisions/$revision" params={{ revision: String(revision) }} activeOptions={{ exact: true }}>
            {g.says}
          </Link>
        ))}
      </div>
    </div>
  );
}

/** Legs are the turns as the procedure makes them: arrows from count to count, joined where one goes on from another. */
function Legs({ plan, x, y }: { plan: Plan; x: (n: number) => number; y: number }) {
  let lane = 0;
  let end = -1;
  return (
    <g>
      {plan.legs.map((g, i) => {
        const next = plan.legs[i + 1];
        const led = next && Math.abs(next.from - g.to) < 0.01 && next.to - next.from < 0.9;
        const goesOn = Math.abs(g.from - end) < 0.01 && g.to - g.from < 0.9;
        if (end >= 0 && !goesOn) lane++;
        end = g.to;
        const ok = plan.home;
        const ink = ok ? "var(--color-ink)" : "var(--color-clash)";
        const yy = y + lane * 25;
        const short = g.to - g.from < 0.3;
        return (
          <g key={g.step}>
            <path d={`M${x(g.from)} ${yy}H${x(g.to)}`} stroke={ink} strokeWidth="2" />
            {!led && <path d={`M${x(g.to) - 7} ${yy - 4.5}L${x(g.to)} ${yy}l-7 4.5`} fill="none" stroke={ink} strokeWidth="2" />}
            {!short && (
              <text x={x(g.from) + 8} y={yy + 15} fontSize="var(--text-fine)" fill={ink}>
                {clip(g.says, 78)}
              </text>
            )}
          </g>
        );
      })}
      {plan.legs.length === 0 && (
        <text x={x(0)} y={y + 8} fontSize="var(--text-fine)" fill="var(--color-ink-2)">
          The procedure does not turn the crank after a belt or chain is fitted.
        </text>
      )}
    </g>
  );
}

function lanes(legs: Plan["legs"]) {
  let n = 1;
  let end = -1;
  for (const g of legs) {
    if (end >= 0 && !(Math.abs(g.from - end) < 0.01 && g.to - g.from < 0.9)) n++;
    end = g.to;
  }
  return n;
}

const clip = (s: string, n: number) => (s.length > n ? `${s.slice(0, n - 1)}…` : s);

function describe(p: Plan) {
  return `${p.says} ${p.rows.map((r) => `${r.name} every ${r.every}`).join(", ")}.`;
}
