import { begin } from "./begin";
import { ChoiceCell, FieldCell, FigureCell, NameCell, names, QuantityCell, SetCell } from "./cells";
import { makeFastener, makeTool } from "./make";
import { Add, Out, Row, Rows, type TabProps } from "./rows";

/** Tensioners are what keeps the belts and chains tight, beside the wheels they move. */
export function Tensioners({ draft, selected, onSelect }: TabProps) {
  const { sheet } = draft.view;
  return (
    <Rows
      caption="Tensioners"
      add={
        <Add draft={draft} onClick={() => begin(draft, "tensioners", selected, onSelect)}>
          Add a tensioner
        </Add>
      }
      none={
        !sheet.tensioners?.length &&
        (sheet.loops.length ? "None. Nothing keeps a belt or chain tight." : "None. There is no belt or chain.")
      }
      head={[
        "Tensioner",
        "Method",
        "Wheel it moves",
        { name: "Travel ± mm", num: true, says: "How far its wheel’s centre moves either side of the middle" },
        { name: "Moves towards °", num: true, says: "Degrees clockwise from twelve o’clock" },
        "Pin",
        { name: "Turned to tension" },
        "Clamped by",
        { name: "Turns to settle", num: true },
        "Wait",
        { name: "Tone", says: "The frequency of the plucked run" },
        "",
      ]}
    >
      {(sheet.tensioners ?? []).map((t) => {
        const p = `tensioners/${t.id}`;
        return (
          <Row key={t.id} at={p} selected={selected} onSelect={onSelect}>
            <NameCell draft={draft} path={p} value={t.name} width={100} />
            <td className="min-w-[120px]">
              <FieldCell draft={draft} path={`${p}/method`} label="Method" value={t.method} />
            </td>
            <td className="min-w-[80px]">
              <ChoiceCell draft={draft} path={`${p}/wheel`} label="Wheel" value={t.wheel} choices={names(sheet.wheels)} none="" />
            </td>
            <td className="num">
              <FigureCell
                draft={draft}
                path={`${p}/travel`}
                label="Travel either side, mm"
                value={t.travel}
                least={0}
                width="40px"
              />
            </td>
            <td className="num">
              <FigureCell
                draft={draft}
                path={`${p}/moves`}
                label="Way it moves, degrees from twelve o’clock"
                value={t.moves}
                width="44px"
                empty="auto"
              />
            </td>
            <td>
              <ChoiceCell
                draft={draft}
                path={`${p}/pin`}
                label="Pin"
                value={t.pin}
                choices={(sheet.tools ?? []).map((v) => ({ value: v.id, name: v.number }))}
                none=""
                make={makeTool}
              />
            </td>
            <td>
              <FieldCell draft={draft} path={`${p}/turn`} label="Turned" value={t.turn} none="" />
            </td>
            <td className="max-w-[100px]">
              <SetCell
                draft={draft}
                path={`${p}/bolts`}
                label="Clamped by"
                value={t.bolts}
                choices={names(sheet.fasteners)}
                make={makeFastener}
              />
            </td>
            <td className="num">
              <FigureCell
                draft={draft}
                path={`${p}/settle`}
                label="Turns to settle"
                value={t.settle}
                whole
                least={0}
                width="36px"
              />
            </td>
            <td>
              <QuantityCell draft={draft} path={`${p}/wait`} label="Wait" value={t.wait} width="60px" />
            </td>
            <td>
              {t.frequency && (
                <QuantityCell draft={draft} path={`${p}/frequency/note`} label="Tone" value={t.frequency.note} width="84px" />
              )}
            </td>
            <Out draft={draft} path={p} name={t.name} />
          </Row>
        );
      })}
    </Rows>
  );
}
