import { Link } from "@tanstack/react-router";
import { begin } from "./begin";
import { ChoiceCell, FieldCell, FigureCell, NameCell, names, QuantityCell, TickCell, WordCell } from "./cells";
import { Add, Out, Row, Rows, type TabProps } from "./rows";

/** FastenersTab is the bolts; stages are typed as one line, which the server reads. */
export function FastenersTab({ draft, selected, onSelect }: TabProps) {
  const { sheet } = draft.view;
  const holders = (sheet.locks ?? []).filter((l) => l.carriesTorque);
  return (
    <Rows
      caption="Fasteners"
      add={
        <>
          <Add draft={draft} onClick={() => begin(draft, "fasteners", selected, onSelect)}>
            Add a fastener
          </Add>
          <Link
            to="/engines/$code/torques"
            params={{ code: sheet.code }}
            search={draft.view.meta.state === "draft" ? {} : { sheet: draft.view.meta.number }}
            className="link text-small"
          >
            Torque table
          </Link>
        </>
      }
      head={[
        "Fastener",
        { name: "Count", num: true },
        "Thread",
        "Class",
        { name: "Across flats", num: true },
        "Tightened to",
        "Pattern",
        "Lubrication",
        { name: "Turns the", says: "The shaft that turns with it" },
        "Held with",
        "Single use",
        "Left-hand thread",
        "",
      ]}
    >
      {(sheet.fasteners ?? []).map((f) => {
        const p = `fasteners/${f.id}`;
        return (
          <Row key={f.id} at={p} selected={selected} onSelect={onSelect}>
            <NameCell draft={draft} path={p} value={f.name} width={134} />
            <td className="num">
              <FigureCell draft={draft} path={`${p}/count`} label="Count" value={f.count} whole least={1} width="36px" />
            </td>
            <td className="min-w-[68px]">
              <WordCell draft={draft} path={`${p}/thread`} label="Thread" value={f.thread} />
            </td>
            <td>
              <WordCell draft={draft} path={`${p}/class`} label="Class" value={f.class} width="44px" />
            </td>
            <td className="num">
              <FigureCell draft={draft} path={`${p}/across`} label="Across flats, mm" value={f.across} least={0} width="40px" />
            </td>
            <td className="min-w-[128px]">
              <span className="cells-left">
                <QuantityCell
                  draft={draft}
                  path={`${p}/spec`}
                  label="Tightened to"
                  value={draft.view.derived.texts[`${p}/spec`]}
                  empty="60 Nm + 90 deg"
                />
              </span>
              <Holds draft={draft} id={f.id} />
              {byCase(draft, p).map((c) => (
                <span key={c} className="block text-fine whitespace-nowrap text-ink-2">
                  {c}
                </span>
              ))}
            </td>
            <td className="min-w-[74px]">
              <WordCell draft={draft} path={`${p}/pattern`} label="Pattern" value={f.pattern} />
            </td>
            <td className="min-w-[56px]">
              <FieldCell draft={draft} path={`${p}/lubricant`} label="Lubrication" value={f.lubricant} none="" />
            </td>
            <td className="min-w-[66px]">
              <ChoiceCell
                draft={draft}
                path={`${p}/onShaft`}
                label="The shaft it would turn"
                value={f.onShaft}
                choices={names(sheet.shafts)}
                none=""
              />
            </td>
            <td className="min-w-[92px]">
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

/** Holds says what its torque does to a fastener: the clamp load, and how near to yielding it comes. */
function Holds({ draft, id }: { draft: TabProps["draft"]; id: string }) {
  const b = draft.view.derived.bolts[id];
  if (!b) return null;
  const wrong = b.verdict && { breaks: "breaks it", yields: "yields", slack: "hardly holds", "": undefined }[b.verdict];
  return (
    <span
      className={`block whitespace-nowrap text-fine ${wrong ? "text-clash" : "text-ink-2"}`}
      title={`Clamp load over the friction in thread and under the head${b.on ? `; then ${b.on} on` : ""}`}
    >
      {wrong ? `${wrong}: ` : ""}
      {b.clamp} kN{!wrong && !b.on && b.ofYield && `, ${b.ofYield} of yield`}
      {b.reuse && `, ${b.reuse}`}
      {b.on && `, then ${b.on}`}
    </span>
  );
}

/** byCase are the values a fastener has on some engines, beside the one that is typed. */
function byCase(draft: TabProps["draft"], of: string) {
  const { sheet, derived } = draft.view;
  const ids = (sheet.varies ?? []).filter((v) => v.of === of).map((v) => v.id);
  return derived.cases.filter((c) => ids.includes(c.id)).flatMap((c) => c.lines.map((l) => `${l.says}: ${l.then}`));
}
