import { begin } from "./begin";
import { ChoiceCell, NameCell, names, QuantityCell, WordCell } from "./cells";
import { makeTool } from "./make";
import { Add, Out, Row, Rows, type TabProps } from "./rows";

/** Readings are what is measured on the engine, and what of it passes. */
export function Readings({ draft, selected, onSelect }: TabProps) {
  const { sheet } = draft.view;
  return (
    <Rows
      caption="Readings"
      add={
        <Add draft={draft} onClick={() => begin(draft, "readings", selected, onSelect)}>
          Add a reading
        </Add>
      }
      none={
        !sheet.readings?.length &&
        "None. What is measured and bounds what may pass: a backlash, an end play, a plunger’s lift, the deflection of a run."
      }
      head={[
        "Reading",
        "Passes at",
        { name: "Measured at" },
        { name: "Tells the place of", says: "The shaft that stands at its place where the reading passes" },
        { name: "Of the gears", says: "Measured once they were apart" },
        { name: "Of the tension of", says: "Measured once it was tensioned" },
        { name: "Of the seat of", says: "Measured once it is back" },
        "Behind",
        "Tool",
        "",
      ]}
    >
      {(sheet.readings ?? []).map((r) => {
        const p = `readings/${r.id}`;
        return (
          <Row key={r.id} at={p} selected={selected} onSelect={onSelect}>
            <NameCell draft={draft} path={p} value={r.name} width={150} />
            <td className="whitespace-nowrap">
              <QuantityCell draft={draft} path={`${p}/value`} label="Passes at" value={r.value} width="104px" />
            </td>
            <td>
              <WordCell draft={draft} path={`${p}/place`} label="Measured at" value={r.place} />
            </td>
            <td>
              <ChoiceCell draft={draft} path={`${p}/shaft`} label="Shaft" value={r.shaft} choices={names(sheet.shafts)} none="" />
            </td>
            <td>
              <ChoiceCell draft={draft} path={`${p}/gear`} label="Gears" value={r.gear} choices={names(sheet.gears)} none="" />
            </td>
            <td>
              <ChoiceCell
                draft={draft}
                path={`${p}/loop`}
                label="Belt or chain"
                value={r.loop}
                choices={names(sheet.loops)}
                none=""
              />
            </td>
            <td>
              <ChoiceCell draft={draft} path={`${p}/part`} label="Part" value={r.part} choices={names(sheet.parts)} none="" />
            </td>
            <td>
              <ChoiceCell
                draft={draft}
                path={`${p}/behind`}
                label="Behind"
                value={r.behind}
                choices={names(sheet.parts)}
                none=""
              />
            </td>
            <td className="whitespace-nowrap">
              <ChoiceCell
                draft={draft}
                path={`${p}/tool`}
                label="Tool"
                value={r.tool}
                choices={(sheet.tools ?? []).map((v) => ({ value: v.id, name: v.number }))}
                none=""
                make={makeTool}
              />
            </td>
            <Out draft={draft} path={p} name={r.name} />
          </Row>
        );
      })}
    </Rows>
  );
}
