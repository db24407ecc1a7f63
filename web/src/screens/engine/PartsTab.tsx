import { begin } from "./begin";
import { ChoiceCell, FieldCell, NameCell, names, QuantityCell, SetCell, WordCell } from "./cells";
import { makeFastener, makePart } from "./make";
import { Add, add, Out, Row, Rows, type TabProps } from "./rows";
import { fresh, type Sheet } from "./sheet";

export function PartsTab({ draft, selected, onSelect }: TabProps) {
  const { sheet } = draft.view;
  return (
    <>
      <Rows
        caption="Parts"
        add={
          <Add draft={draft} onClick={() => begin(draft, "parts", selected, onSelect)}>
            Add a part
          </Add>
        }
        head={["Part", "Kind", "Policy", "Look for", "Held by", "Comes off after", "Seal", "Goes back", ""]}
      >
        {(sheet.parts ?? []).map((v) => {
          const p = `parts/${v.id}`;
          return (
            <Row key={v.id} at={p} selected={selected} onSelect={onSelect}>
              <NameCell draft={draft} path={p} value={v.name} width={120} />
              <td className="min-w-[98px]">
                <FieldCell draft={draft} path={`${p}/kind`} label="Kind" value={v.kind} />
              </td>
              <td className="min-w-[124px]">
                <FieldCell draft={draft} path={`${p}/policy`} label="Policy" value={v.policy} />
              </td>
              <td className="min-w-[90px]">
                <WordCell draft={draft} path={`${p}/if`} label="Look for" value={v.if} />
              </td>
              <td className="min-w-[90px] max-w-[150px]">
                <SetCell
                  draft={draft}
                  path={`${p}/held`}
                  label="Held by"
                  value={v.held}
                  choices={names(sheet.fasteners)}
                  make={makeFastener}
                />
              </td>
              <td className="min-w-[90px] max-w-[150px]">
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
                  make={makePart("seal")}
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
        caption="Fluids"
        add={
          <Add draft={draft} onClick={() => begin(draft, "fluids", selected, onSelect)}>
            Add a fluid
          </Add>
        }
        head={["Fluid", "Amount", "Grade", "Let out by", ""]}
      >
        {(sheet.fluids ?? []).map((v) => {
          const p = `fluids/${v.id}`;
          return (
            <Row key={v.id} at={p} selected={selected} onSelect={onSelect}>
              <NameCell draft={draft} path={p} value={v.name} width={160} />
              <td className="w-[110px]">
                <QuantityCell draft={draft} path={`${p}/amount`} label="Amount" value={v.amount} empty="6.5 L" />
              </td>
              <td>
                <WordCell draft={draft} path={`${p}/grade`} label="Grade" value={v.grade} />
              </td>
              <td className="min-w-[120px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/drain`}
                  label="Let out by"
                  value={v.drain}
                  choices={names(sheet.parts)}
                  none=""
                  make={makePart("plug")}
                />
              </td>
              <Out draft={draft} path={p} name={v.name} />
            </Row>
          );
        })}
      </Rows>
      <Rows
        caption="Special tools"
        add={
          <Add draft={draft} onClick={() => begin(draft, "tools", selected, onSelect)}>
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
      <Rows
        caption="Names of your own"
        add={
          <Add
            draft={draft}
            onClick={() =>
              add(draft, onSelect, "names", fresh("name", sheet.names), { say: "", of: sayable(sheet)[0]?.value ?? "" })
            }
          >
            Add a name
          </Add>
        }
        head={["People here also say", "for", ""]}
      >
        {(sheet.names ?? []).map((n) => {
          const p = `names/${n.id}`;
          return (
            <Row key={n.id} at={p} selected={selected} onSelect={onSelect}>
              <td className="w-[240px] font-[600]">
                <WordCell draft={draft} path={`${p}/say`} label="People here also say" value={n.say} needed />
              </td>
              <td>
                <ChoiceCell draft={draft} path={`${p}/of`} label="for" value={n.of} choices={sayable(sheet)} />
              </td>
              <Out draft={draft} path={p} name={n.say || "the name"} />
            </Row>
          );
        })}
      </Rows>
    </>
  );
}

/** sayable are the things a line can name, by their place on the sheet. */
function sayable(sheet: Sheet) {
  const lists = {
    locks: "lock",
    parts: "part",
    fasteners: "fastener",
    loops: "belt or chain",
    wheels: "wheel",
    marks: "mark",
    tensioners: "tensioner",
  };
  return Object.entries(lists).flatMap(([list, kind]) =>
    ((sheet[list as keyof Sheet] as { id: string; name: string }[] | undefined) ?? []).map((v) => ({
      value: `${list}/${v.id}`,
      name: `${v.name} (${kind})`,
    })),
  );
}
