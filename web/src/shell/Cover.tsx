import type { ReactNode } from "react";

/** Cover is the page outside: a drawing sheet with a locked drive and the page that locked it, and the way in as its title block. */
export function Cover({ name, children }: { name: string; children: ReactNode }) {
  return (
    <main id="main" className="cover h-full overflow-auto bg-film p-5 max-md:p-2">
      <div className="cover-sheet relative flex min-h-full flex-col border-[1.5px] border-ink bg-(--white)">
        <p className="max-w-[46ch] px-6 pt-5 text-lead leading-snug text-ink-2 max-md:px-4 max-md:pt-3">
          Every step runs on a virtual engine while you write it. A lock left in shows here, not on the bench.
        </p>
        <div className="flex min-h-0 flex-1 items-center px-6 py-4 max-lg:justify-center max-md:px-4 max-md:py-2">
          <Drawn />
        </div>
        <section
          aria-label={name}
          className="title-block self-end border-t-[1.5px] border-l-[1.5px] border-ink bg-(--white) max-md:w-full max-md:self-stretch max-md:border-l-0"
        >
          <div className="grid grid-cols-[1fr_auto] border-b border-rule">
            <div className="head-cell">
              <div className="name">Title</div>
              <div className="what flex items-center gap-2">
                <img src="/mark.svg" alt="" width={15} height={15} /> Ink Latch
              </div>
            </div>
            <div className="head-cell !border-r-0">
              <div className="name">Sheet</div>
              <h1 className="what">{name}</h1>
            </div>
          </div>
          <div className="px-4 py-3.5">{children}</div>
        </section>
      </div>
    </main>
  );
}

/** the page that is drawn beside the drive, and which of its locks each line puts in or takes out */
const lines: [string, string, string?][] = [
  ["14", "Lock crank with crank pin"],
  ["15", "Lock both cams with cam bar"],
  ["16", "Take off the timing belt"],
  ["17", "Fit the new timing belt", "slack at tensioner"],
  ["18", "Tighten the tensioner bolt", "20 N·m"],
  ["19", "Turn crank clockwise", "2 turns"],
];
const row = 34;

/** Drawn is a belt drive with its locks in, and the latch chart of a page that turns the crank into them. */
function Drawn() {
  const y = (i: number) => 70 + i * row;
  return (
    <svg
      viewBox="0 0 760 330"
      className="h-full max-h-[clamp(200px,calc(100vh-452px),430px)] w-full max-w-[960px] max-md:max-h-[190px]"
      aria-hidden="true"
      fontFamily="var(--font-sans)"
      fontSize="13"
      fill="var(--color-ink)"
    >
      <defs>
        <pattern id="cover-hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" fill="var(--color-marking-wash)" />
          <rect width="2.3" height="6" fill="var(--color-marking)" />
        </pattern>
        <pattern id="cover-lock" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
          <rect width="6" height="6" fill="var(--color-marking-wash)" />
          <rect width="2.3" height="6" fill="var(--color-marking)" />
        </pattern>
      </defs>
      <g fill="none" stroke="var(--color-ink)">
        {[
          [98, 88, 48],
          [222, 88, 48],
          [160, 262, 24],
        ].map(([x, cy, r]) => (
          <g key={`${x} ${cy}`}>
            <circle cx={x} cy={cy} r={r} fill="url(#cover-hatch)" strokeWidth="1.4" />
            <circle cx={x} cy={cy} r={r / 6} fill="var(--white)" strokeWidth="1.4" />
            <path d={`M${x} ${cy - r + 1}v11`} stroke="var(--color-paint)" strokeWidth="5" />
            <path d={`M${x} ${cy - r - 12}l-5 -9h10z`} fill="var(--color-ink)" stroke="none" />
          </g>
        ))}
        <path
          d="M135.1 274.7L51.7 111.7A52 52 0 0 1 98.0 36.0L222.0 36.0A52 52 0 0 1 268.3 111.7L184.9 274.7A28 28 0 0 1 135.1 274.7Z"
          strokeWidth="7"
        />
        <path
          d="M135.1 274.7L51.7 111.7A52 52 0 0 1 98.0 36.0L222.0 36.0A52 52 0 0 1 268.3 111.7L184.9 274.7A28 28 0 0 1 135.1 274.7Z"
          stroke="var(--white)"
          strokeWidth="2"
          strokeDasharray="2 4"
        />
        <rect
          x="82"
          y="82"
          width="156"
          height="12"
          rx="2"
          fill="url(#cover-hatch)"
          stroke="var(--color-marking)"
          strokeWidth="1.5"
        />
      </g>
      <g>
        {["Crank pin", "Cam bar", "Timing belt"].map((n, i) => (
          <text
            key={n}
            x={352 + i * 26}
            y="46"
            fontSize="11.5"
            fill="var(--color-ink-2)"
            transform={`rotate(-38 ${352 + i * 26} 46)`}
          >
            {n}
          </text>
        ))}
        <rect x="343" y={y(0)} width="10" height={y(5) - y(0) + 26} fill="url(#cover-hatch)" stroke="var(--color-marking)" />
        <rect x="369" y={y(1)} width="10" height={y(5) - y(1) + 26} fill="url(#cover-hatch)" stroke="var(--color-marking)" />
        <path d={`M400 56V${y(2)}M400 ${y(3)}V${y(5) + 26}`} stroke="var(--color-ink)" strokeWidth="5.5" />
        <path d={`M400 56V${y(2)}M400 ${y(3)}V${y(5) + 26}`} stroke="var(--white)" strokeWidth="1.8" strokeDasharray="2 3" />
        {lines.map(([no, says, value], i) => (
          <g key={no}>
            <path d={`M424 ${y(i) + row / 2}H752`} stroke="var(--color-rule)" />
            <text x="446" y={y(i) + 5} textAnchor="end" fill="var(--color-ink-2)">
              {no}
            </text>
            <text x="456" y={y(i) + 5} fontWeight={i === 5 ? 650 : 400}>
              {says}
            </text>
            <text x="752" y={y(i) + 5} textAnchor="end" fontFamily="var(--font-mono)" fontSize="12" fill="var(--color-ink-2)">
              {value}
            </text>
          </g>
        ))}
        <path d={`M332 ${y(5)}H418m-7 -4.5l7 4.5l-7 4.5`} fill="none" stroke="var(--color-ink)" strokeWidth="1.4" />
        {[348, 374].map((x) => (
          <g key={x} transform={`translate(${x} ${y(5)})`} stroke="var(--color-clash)">
            <circle r="7.5" fill="var(--white)" strokeWidth="1.8" />
            <path d="M-3 -3l6 6m0 -6l-6 6" strokeWidth="2" />
          </g>
        ))}
        <text x="456" y={y(6) + 2} fill="var(--color-clash)" fontWeight="650">
          Step 19 turns the crank with two locks fitted
        </text>
      </g>
    </svg>
  );
}
