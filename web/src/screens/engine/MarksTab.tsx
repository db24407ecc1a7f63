import { begin, metWheel } from "./begin";
import { ChoiceCell, FieldCell, FigureCell, NameCell, names, SetCell, TickCell, WordCell } from "./cells";
import { makePart, makeTool } from "./make";
import { Readings } from "./Readings";
import { Add, Out, Row, Rows, type TabProps } from "./rows";
import type { SheetDraft } from "./useSheet";

export function MarksTab({ draft, selected, onSelect }: TabProps) {
  const { sheet, derived } = draft.view;
  const links = sheet.marks?.some((m) => m.kind === "loop" && m.wheel);
  // What is placed is placed on the wheel that is met on the drawing.
  const met = metWheel(sheet, selected);
  const home = (ref: string) => derived.homes.find((h) => h.ref === ref);
  return (
    <>
      <Rows
        caption="Lock points"
        add={
          <Add draft={draft} onClick={() => begin(draft, "locks", selected, onSelect)}>
            {met?.shaft ? `Add a lock on the ${sheet.shafts.find((v) => v.id === met.shaft)?.name ?? "shaft"}` : "Add a lock"}
          </Add>
        }
        head={[
          "Lock",
          "Kind",
          "Holds",
          { name: "Per turn", num: true, says: "How many times in a turn of the shaft the lock goes in" },
          { name: "Play ±°", num: true, says: "Degrees of the shaft either side" },
          { name: "Play ± mm", num: true, says: "Millimetres either side, where it is measured at a radius" },
          { name: "at radius, mm", num: true },
          "Tool",
          "Behind",
          { name: "Carries torque", says: "May carry the torque of a bolt" },
          "Home",
          "",
        ]}
      >
        {(sheet.locks ?? []).map((l) => {
          const p = `locks/${l.id}`;
          const h = home(`lock:${l.id}`);
          return (
            <Row key={l.id} at={p} selected={selected} onSelect={onSelect}>
              <NameCell draft={draft} path={p} value={l.name} width={100} />
              <td className="min-w-[92px]">
                <FieldCell draft={draft} path={`${p}/kind`} label="Kind" value={l.kind} />
              </td>
              <td className="min-w-[110px] max-w-[150px]">
                <SetCell draft={draft} path={`${p}/holds`} label="Holds" value={l.holds} choices={names(sheet.shafts)} />
              </td>
              <td className="num">
                <FigureCell
                  draft={draft}
                  path={`${p}/repeats`}
                  label="Times a turn of the shaft"
                  value={l.repeats}
                  whole
                  least={1}
                  width="36px"
                />
              </td>
              <td className="num">
                <FigureCell
                  draft={draft}
                  path={`${p}/play`}
                  label="Play, degrees either side"
                  value={l.play}
                  least={0}
                  width="44px"
                />
              </td>
              <td className="num">
                <FigureCell
                  draft={draft}
                  path={`${p}/playMM`}
                  label="Play, mm either side"
                  value={l.playMM}
                  least={0}
                  width="44px"
                />
              </td>
              <td className="num">
                <FigureCell
                  draft={draft}
                  path={`${p}/radius`}
                  label="Radius the play is measured at, mm"
                  value={l.radius}
                  least={0}
                  width="44px"
                />
              </td>
              <td className="min-w-[58px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/tool`}
                  label="Tool"
                  value={l.tool}
                  choices={(sheet.tools ?? []).map((t) => ({ value: t.id, name: t.number }))}
                  none=""
                  make={makeTool}
                />
              </td>
              <td>
                <ChoiceCell
                  draft={draft}
                  path={`${p}/access`}
                  label="Behind"
                  value={l.access}
                  choices={names(sheet.parts)}
                  none=""
                  make={makePart("plug", "plug or cover")}
                />
              </td>
              <td>
                <TickCell draft={draft} path={`${p}/carriesTorque`} label="May carry bolt torque" value={l.carriesTorque} />
              </td>
              <td className="derived">
                {h ? h.says : "anywhere"}
                {h?.stroke && (
                  <span className="block font-sans text-fine" title="It tells TDC firing from TDC exhaust">
                    tells the stroke
                  </span>
                )}
              </td>
              <Out draft={draft} path={p} name={l.name} />
            </Row>
          );
        })}
      </Rows>
      <Rows
        caption="Marks"
        add={
          <Add draft={draft} onClick={() => begin(draft, "marks", selected, onSelect)}>
            {met ? `Add a mark on the ${met.name} wheel` : "Add a mark"}
          </Add>
        }
        head={[
          "Mark",
          "Kind",
          "On",
          { name: "Home at °", num: true, says: "The angle of the shaft at which the mark meets its pointer" },
          { name: "Pointer °", num: true, says: "Degrees clockwise from twelve o’clock" },
          ...(links ? [{ name: "Link", num: true as const }] : []),
          "Meets",
          "Looks like",
          { name: "Resolves °", num: true, says: "The smallest error it shows, degrees" },
          "Home",
          "",
        ]}
      >
        {(sheet.marks ?? []).map((m) => {
          const p = `marks/${m.id}`;
          const h = home(`mark:${m.id}`);
          const onLoop = m.kind === "loop";
          return (
            <Row key={m.id} at={p} selected={selected} onSelect={onSelect}>
              <NameCell draft={draft} path={p} value={m.name} width={122} />
              <td className="min-w-[66px]">
                <FieldCell draft={draft} path={`${p}/kind`} label="Kind" value={m.kind} />
              </td>
              <td className="min-w-[80px]">
                {onLoop && (
                  <ChoiceCell
                    draft={draft}
                    path={`${p}/loop`}
                    label="Belt or chain"
                    value={m.loop}
                    choices={names(sheet.loops)}
                    none=""
                  />
                )}
                <span className={onLoop ? "block text-ink-2" : undefined}>
                  <ChoiceCell
                    draft={draft}
                    path={`${p}/wheel`}
                    label="Wheel"
                    value={m.wheel}
                    choices={names(sheet.wheels)}
                    none={onLoop ? "no wheel" : ""}
                  />
                </span>
              </td>
              <td className="num">
                <FigureCell draft={draft} path={`${p}/at`} label="Shaft angle at home" value={m.at} zero width="44px" />
              </td>
              <td className="num">
                <FigureCell
                  draft={draft}
                  path={`${p}/clock`}
                  label="Pointer, degrees from twelve o’clock"
                  value={m.clock}
                  width="48px"
                  empty="0"
                />
              </td>
              {links && (
                <td className="num">
                  {onLoop && (
                    <FigureCell
                      draft={draft}
                      path={`${p}/link`}
                      label="Link or tooth"
                      value={m.link}
                      whole
                      width="40px"
                      empty="0"
                    />
                  )}
                </td>
              )}
              <td className="min-w-[80px]">
                <WordCell draft={draft} path={`${p}/pointer`} label="Meets" value={m.pointer} />
              </td>
              <td className="min-w-[80px]">
                <WordCell draft={draft} path={`${p}/look`} label="Looks like" value={m.look} />
              </td>
              <td className="num">
                <FigureCell
                  draft={draft}
                  path={`${p}/shows`}
                  label="Smallest error it shows, degrees"
                  value={m.shows}
                  least={0}
                  width="40px"
                />
              </td>
              <td className="derived">{h?.says}</td>
              <Out draft={draft} path={p} name={m.name} />
            </Row>
          );
        })}
      </Rows>
      <Readings draft={draft} selected={selected} onSelect={onSelect} />
      <SeenBy draft={draft} />
    </>
  );
}

/** SeenBy is the table “error × can be seen by”. */
function SeenBy({ draft }: { draft: SheetDraft }) {
  const e = draft.view.derived.errors;
  if (e.rows.length === 0 || e.sights.length === 0) return null;
  const valves = e.rows.some((r) => r.room !== undefined);
  // The names stand at a slant: the longest says how much room the heading and its right edge need.
  const slant = (52 * Math.PI) / 180;
  const long = e.sights.map((s) => s.name.length * 6.1);
  const tall = Math.max(60, Math.sin(slant) * Math.max(...long) + 18);
  const wide = Math.max(...long.map((l, i) => Math.cos(slant) * l - (long.length - 1.5 - i) * 30));
  return (
    <section className="mt-6">
      <h2 className="text-body">What can see which error</h2>
      <p className="mb-2 text-small text-ink-2">
        Filled: cannot miss it. Half: larger than the play, not than twice the play. Open: lets it pass. A shaft locked at one end
        of a tool’s play may be checked at the other, so a tool is sure of twice its play only.
      </p>
      <div className="scroll-wide">
        <table className="border-collapse text-small" style={{ marginRight: wide }}>
          <thead>
            <tr>
              <th scope="col" className="pr-4 pb-1 text-left align-bottom text-fine font-[600] text-ink-2">
                Error
              </th>
              <th scope="col" className="pr-3 pb-1 text-right align-bottom text-fine font-[600] text-ink-2">
                Shaft
              </th>
              <th scope="col" className="pr-4 pb-1 text-right align-bottom text-fine font-[600] text-ink-2">
                Crank
              </th>
              {valves && (
                <th scope="col" className="pr-4 pb-1 text-right align-bottom text-fine font-[600] text-ink-2">
                  Valve to piston
                </th>
              )}
              {e.sights.map((s, i) => (
                <th key={i} scope="col" className="w-[30px] min-w-[30px] align-bottom font-normal" style={{ height: tall }}>
                  <span className="relative block w-[30px]" style={{ height: tall - 4 }}>
                    <span
                      className="absolute bottom-0 left-[14px] origin-bottom-left -rotate-[52deg] text-fine whitespace-nowrap text-ink-2"
                      title={`${s.name} on the ${s.shaft}: sure from ${s.least}°`}
                    >
                      {s.name}
                    </span>
                  </span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {e.rows.map((r) => (
              <tr key={r.name} className="border-t border-rule">
                <th scope="row" className="py-1 pr-4 text-left font-normal whitespace-nowrap">
                  {r.name}
                </th>
                <td className="pr-3 text-right font-mono">{r.of.toFixed(2)}°</td>
                <td className="pr-4 text-right font-mono text-ink-2">{r.crank.toFixed(2)}°</td>
                {valves && (
                  <td className={`pr-4 text-right font-mono ${(r.room ?? 1) < 0 ? "font-[650] text-clash" : "text-ink-2"}`}>
                    {r.room === undefined ? "" : r.room < 0 ? "they meet" : `${r.room.toFixed(1)} mm`}
                  </td>
                )}
                {r.seen.map((v, i) => (
                  <td key={i} className="text-center">
                    <Dot answer={v} name={`${e.sights[i].name}: ${v}`} />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

function Dot({ answer, name }: { answer: string; name: string }) {
  if (!answer) return <span className="text-ink-3">·</span>;
  return (
    <svg width="14" height="14" viewBox="0 0 14 14" className="mx-auto block" role="img" aria-label={name}>
      <title>{name}</title>
      <circle
        cx="7"
        cy="7"
        r="5"
        fill={answer === "sees it" ? "var(--color-marking)" : "var(--white)"}
        stroke={answer === "cannot see it" ? "var(--color-ink-3)" : "var(--color-marking)"}
        strokeWidth="1.5"
      />
      {answer === "may see it" && <path d="M7 2a5 5 0 0 0 0 10z" fill="var(--color-marking)" />}
    </svg>
  );
}
