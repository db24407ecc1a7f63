import { ChoiceCell, FigureCell, names, QuantityCell, SetCell, TickCell, WordCell, words } from "./cells";
import { Add, Out, Row, Rows } from "./DriveTab";
import { type Fastener, fresh, set } from "./sheet";
import type { SheetDraft } from "./useSheet";

interface TabProps {
  draft: SheetDraft;
  selected: string;
  onSelect: (ref: string) => void;
}

const add = (draft: SheetDraft, onSelect: (r: string) => void, list: string, id: string, value: object) => {
  draft.save([set(`${list}/${id}`, { id, ...value })]);
  onSelect(`${list}/${id}`);
};

export function MarksTab({ draft, selected, onSelect }: TabProps) {
  const { sheet, derived } = draft.view;
  const links = sheet.marks?.some((m) => m.kind === "loop" && m.wheel);
  const home = (ref: string) => derived.homes.find((h) => h.ref === ref);
  return (
    <>
      <Rows
        caption="Lock points"
        add={
          <Add
            draft={draft}
            onClick={() =>
              add(draft, onSelect, "locks", fresh("lock", sheet.locks), {
                name: "new lock",
                kind: "pin",
                holds: ["crank"],
                repeats: 1,
              })
            }
          >
            Add a lock
          </Add>
        }
        head={[
          "Lock",
          "Kind",
          "Holds",
          { name: "A turn", num: true },
          { name: "Play °", num: true },
          { name: "or mm", num: true },
          { name: "at r", num: true },
          "Tool",
          "Behind",
          "Torque",
          "Home",
          "",
        ]}
      >
        {(sheet.locks ?? []).map((l) => {
          const p = `locks/${l.id}`;
          const h = home(`lock:${l.id}`);
          return (
            <Row key={l.id} at={p} selected={selected} onSelect={onSelect}>
              <td className="min-w-[100px] font-[600]">
                <WordCell draft={draft} path={`${p}/name`} label="Name" value={l.name} needed />
              </td>
              <td className="min-w-[72px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/kind`}
                  label="Kind"
                  value={l.kind}
                  choices={words("stop", "pin", "bar", "flywheel lock", "holder")}
                />
              </td>
              <td className="max-w-[110px]">
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
                />
              </td>
              <td className="min-w-[86px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/access`}
                  label="Behind"
                  value={l.access}
                  choices={names(sheet.parts)}
                  none=""
                />
              </td>
              <td>
                <TickCell draft={draft} path={`${p}/carriesTorque`} label="May carry bolt torque" value={l.carriesTorque} />
              </td>
              <td className="derived">
                {h ? h.says : "anywhere"}
                {h?.stroke && (
                  <span className="block font-sans text-[11px]" title="It tells TDC firing from TDC exhaust">
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
          <Add
            draft={draft}
            onClick={() =>
              add(draft, onSelect, "marks", fresh("mark", sheet.marks), {
                name: "new mark",
                kind: "timing",
                wheel: sheet.wheels[0]?.id,
                at: 0,
              })
            }
          >
            Add a mark
          </Add>
        }
        head={[
          "Mark",
          "Kind",
          "On",
          { name: "Home at °", num: true },
          { name: "Clock °", num: true },
          ...(links ? [{ name: "Link", num: true as const }] : []),
          "Meets",
          "Looks like",
          { name: "Shows °", num: true },
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
              <td className="min-w-[122px] font-[600]">
                <WordCell draft={draft} path={`${p}/name`} label="Name" value={m.name} needed />
              </td>
              <td className="min-w-[70px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/kind`}
                  label="Kind"
                  value={m.kind}
                  choices={words("timing", "loop", "look-alike")}
                />
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
                <ChoiceCell
                  draft={draft}
                  path={`${p}/wheel`}
                  label="Wheel"
                  value={m.wheel}
                  choices={names(sheet.wheels)}
                  none={onLoop ? "no wheel" : ""}
                />
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
              <td className="min-w-[110px]">
                <WordCell draft={draft} path={`${p}/pointer`} label="Meets" value={m.pointer} />
              </td>
              <td className="min-w-[110px]">
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
      <SeenBy draft={draft} />
    </>
  );
}

/** SeenBy is the table “error × can be seen by”. */
function SeenBy({ draft }: { draft: SheetDraft }) {
  const e = draft.view.derived.errors;
  if (e.rows.length === 0 || e.sights.length === 0) return null;
  return (
    <section className="mt-6">
      <h2 className="text-[13px]">What can see which error</h2>
      <p className="mb-2 text-[12px] text-ink-2">
        Filled: cannot miss it. Half: larger than the play, not than twice the play. Open: lets it pass. A shaft locked at one end
        of a tool’s play may be checked at the other, so a tool is sure of twice its play only.
      </p>
      <div className="overflow-x-auto">
        <table className="border-collapse text-[12px]">
          <thead>
            <tr>
              <th scope="col" className="pr-4 pb-1 text-left align-bottom text-[11.5px] font-[600] text-ink-2">
                Error
              </th>
              <th scope="col" className="pr-3 pb-1 text-right align-bottom text-[11.5px] font-[600] text-ink-2">
                Shaft
              </th>
              <th scope="col" className="pr-4 pb-1 text-right align-bottom text-[11.5px] font-[600] text-ink-2">
                Crank
              </th>
              {e.sights.map((s, i) => (
                <th key={i} scope="col" className="h-[104px] w-[30px] min-w-[30px] align-bottom font-normal">
                  <span className="relative block h-[100px] w-[30px]">
                    <span
                      className="absolute bottom-0 left-[14px] origin-bottom-left -rotate-[52deg] text-[11px] whitespace-nowrap text-ink-2"
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

/** stages writes a spec as people do, “60 N·m + 90°”, and reads it back. */
const stagesText = (f: Fastener) =>
  (f.spec ?? [])
    .map((g) => g.torque ?? g.angle ?? "")
    .filter(Boolean)
    .join(" + ");
const angleUnit = /°|deg|degrees|turn/i;

export function FastenersTab({ draft, selected, onSelect }: TabProps) {
  const { sheet } = draft.view;
  const holders = (sheet.locks ?? []).filter((l) => l.carriesTorque);
  return (
    <Rows
      caption="Fasteners"
      add={
        <Add
          draft={draft}
          onClick={() => add(draft, onSelect, "fasteners", fresh("bolt", sheet.fasteners), { name: "new bolt", count: 1 })}
        >
          Add a fastener
        </Add>
      }
      head={[
        "Fastener",
        { name: "Count", num: true },
        "Thread",
        "Class",
        { name: "Across", num: true },
        "Tightened to",
        "Pattern",
        "Surface",
        "Turns",
        "Held with",
        "Once",
        "Left",
        "",
      ]}
    >
      {(sheet.fasteners ?? []).map((f) => {
        const p = `fasteners/${f.id}`;
        return (
          <Row key={f.id} at={p} selected={selected} onSelect={onSelect}>
            <td className="min-w-[146px] font-[600]">
              <WordCell draft={draft} path={`${p}/name`} label="Name" value={f.name} needed />
            </td>
            <td className="num">
              <FigureCell draft={draft} path={`${p}/count`} label="Count" value={f.count} whole least={1} width="36px" />
            </td>
            <td className="min-w-[74px]">
              <WordCell draft={draft} path={`${p}/thread`} label="Thread" value={f.thread} />
            </td>
            <td>
              <WordCell draft={draft} path={`${p}/class`} label="Class" value={f.class} width="44px" />
            </td>
            <td className="num">
              <FigureCell draft={draft} path={`${p}/across`} label="Across flats, mm" value={f.across} least={0} width="40px" />
            </td>
            <td className="min-w-[128px]">
              <SpecCell draft={draft} f={f} path={`${p}/spec`} />
            </td>
            <td className="min-w-[84px]">
              <WordCell draft={draft} path={`${p}/pattern`} label="Pattern" value={f.pattern} />
            </td>
            <td className="min-w-[56px]">
              <ChoiceCell
                draft={draft}
                path={`${p}/lubricant`}
                label="Lubricant"
                value={f.lubricant}
                choices={words("dry", "oiled", "greased", "thread lock")}
                none=""
              />
            </td>
            <td className="min-w-[78px]">
              <ChoiceCell
                draft={draft}
                path={`${p}/onShaft`}
                label="The shaft it would turn"
                value={f.onShaft}
                choices={names(sheet.shafts)}
                none=""
              />
            </td>
            <td className="min-w-[104px]">
              <ChoiceCell
                draft={draft}
                path={`${p}/holdWith`}
                label="Held with"
                value={f.holdWith}
                choices={names(holders)}
                none=""
              />
            </td>
            <td>
              <TickCell draft={draft} path={`${p}/singleUse`} label="Used once" value={f.singleUse} />
            </td>
            <td>
              <TickCell draft={draft} path={`${p}/leftHand`} label="Left-hand thread" value={f.leftHand} />
            </td>
            <Out draft={draft} path={p} name={f.name} />
          </Row>
        );
      })}
    </Rows>
  );
}

/** SpecCell types the stages as one line: “60 Nm + 90 deg”. */
function SpecCell({ draft, f, path }: { draft: SheetDraft; f: Fastener; path: string }) {
  return (
    <span className="cells-left">
      <QuantityCell
        draft={{
          ...draft,
          save: (edits) =>
            draft.save(
              edits.map((e) => ({
                ...e,
                value:
                  typeof e.value === "string"
                    ? e.value.split("+").map((s) => (angleUnit.test(s) ? { angle: s.trim() } : { torque: s.trim() }))
                    : e.value,
              })),
            ),
        }}
        path={path}
        label="Tightened to"
        value={stagesText(f)}
        empty="60 Nm + 90 deg"
      />
    </span>
  );
}

export function PartsTab({ draft, selected, onSelect }: TabProps) {
  const { sheet } = draft.view;
  return (
    <>
      <Rows
        caption="Parts"
        add={
          <Add
            draft={draft}
            onClick={() =>
              add(draft, onSelect, "parts", fresh("part", sheet.parts), {
                name: "new part",
                kind: "component",
                policy: "goes back",
              })
            }
          >
            Add a part
          </Add>
        }
        head={["Part", "Kind", "Policy", "Look for", "Held by", "Comes off after", "Seal", "Goes back", ""]}
      >
        {(sheet.parts ?? []).map((v) => {
          const p = `parts/${v.id}`;
          return (
            <Row key={v.id} at={p} selected={selected} onSelect={onSelect}>
              <td className="min-w-[120px] font-[600]">
                <WordCell draft={draft} path={`${p}/name`} label="Name" value={v.name} needed />
              </td>
              <td className="min-w-[80px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/kind`}
                  label="Kind"
                  value={v.kind}
                  choices={words("component", "cover", "plug", "seal", "loop", "lead")}
                />
              </td>
              <td className="min-w-[104px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/policy`}
                  label="Policy"
                  value={v.policy}
                  choices={words("always new", "new if found so", "renew while there", "goes back")}
                />
              </td>
              <td className="min-w-[90px]">
                <WordCell draft={draft} path={`${p}/if`} label="Look for" value={v.if} />
              </td>
              <td className="max-w-[110px]">
                <SetCell draft={draft} path={`${p}/held`} label="Held by" value={v.held} choices={names(sheet.fasteners)} />
              </td>
              <td className="max-w-[110px]">
                <SetCell
                  draft={draft}
                  path={`${p}/after`}
                  label="Comes off after"
                  value={v.after}
                  choices={names((sheet.parts ?? []).filter((q) => q.id !== v.id))}
                />
              </td>
              <td className="min-w-[80px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/seal`}
                  label="Seal renewed with it"
                  value={v.seal}
                  choices={names((sheet.parts ?? []).filter((q) => q.kind === "seal"))}
                  none=""
                />
              </td>
              <td className="min-w-[90px]">
                <WordCell draft={draft} path={`${p}/needs`} label="Goes back" value={v.needs} />
              </td>
              <Out draft={draft} path={p} name={v.name} />
            </Row>
          );
        })}
      </Rows>
      <Rows
        caption="Special tools"
        add={
          <Add
            draft={draft}
            onClick={() => add(draft, onSelect, "tools", fresh("tool", sheet.tools), { number: "TL-", name: "new tool" })}
          >
            Add a tool
          </Add>
        }
        head={["Number", "Tool", "Kit", "May be replaced by", ""]}
      >
        {(sheet.tools ?? []).map((t) => {
          const p = `tools/${t.id}`;
          return (
            <Row key={t.id} at={p} selected={selected} onSelect={onSelect}>
              <td className="w-[90px] font-[600]">
                <WordCell draft={draft} path={`${p}/number`} label="Number" value={t.number} needed />
              </td>
              <td>
                <WordCell draft={draft} path={`${p}/name`} label="Name" value={t.name} needed />
              </td>
              <td className="w-[90px]">
                <WordCell draft={draft} path={`${p}/kit`} label="Kit" value={t.kit} />
              </td>
              <td className="derived">{t.equivalents?.map((e) => `${e.number} ±${e.play}°`).join(", ")}</td>
              <Out draft={draft} path={p} name={t.number} />
            </Row>
          );
        })}
      </Rows>
    </>
  );
}
