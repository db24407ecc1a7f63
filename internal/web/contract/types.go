package contract

import (
	"reflect"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/tension"
	"inklatch/internal/core/house"
	"inklatch/internal/core/page/document"
	"inklatch/internal/core/page/lang"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/core/proof/turns"
	"inklatch/internal/core/review/adapt"
	"inklatch/internal/core/review/redline"
	"inklatch/internal/core/review/replace"
	"inklatch/internal/core/virtual"
	"inklatch/internal/desk"
	"inklatch/internal/desk/view"
)

// component is a schema by its name and the type that owns it.
type component struct {
	name string
	of   reflect.Type
	// pkg and called say the package and the name of a type that has another name of
	// its own.
	pkg, called string
}

func of[T any](name string) component { return component{name: name, of: reflect.TypeFor[T]()} }

// alias is a component whose type is called otherwise where it is used.
func alias[T any](name, pkg, called string) component {
	return component{name, reflect.TypeFor[T](), pkg, called}
}

// types are the components of the contract that a Go type owns.
var types = []component{
	// the engine sheet
	of[engine.Sheet]("EngineSheet"), of[engine.Years]("Years"), of[engine.Bank]("Bank"), of[engine.Shaft]("Shaft"), of[engine.Wheel]("Wheel"),
	of[engine.Stop]("Stop"), of[engine.Loop]("Loop"), of[engine.Gear]("Gear"), of[engine.Mark]("Mark"), of[engine.Lock]("Lock"),
	of[engine.Tensioner]("Tensioner"), of[engine.Stage]("Stage"), of[engine.Fastener]("Fastener"), of[engine.Part]("Part"), of[engine.Tool]("Tool"),
	of[engine.When]("When"), of[engine.Case]("Case"), of[engine.Variation]("Variation"), of[engine.OwnName]("OwnName"), of[engine.Source]("SourceDocument"), of[engine.Proof]("Evidence"),
	of[engine.Edit]("SheetEdit"), of[engine.Car]("Car"), alias[sheetproof.Mend]("SheetMend", "inklatch/internal/core/proof/sheetproof", "Mend"), of[sheetproof.Finding]("SheetFinding"),
	// the procedure and its proof
	of[step.Step]("Step"), of[step.Caution]("Caution"), of[procedure.Header]("Header"), of[procedure.Edit]("Edit"), alias[pageproof.Mend]("Mend", "inklatch/internal/core/proof/pageproof", "Mend"),
	of[pageproof.Finding]("Finding"), of[quickline.Completion]("Completion"), of[step.Spec]("VerbSpec"), of[step.Field]("Field"), of[step.FieldReading]("FieldReading"), of[turns.Plan]("TurnPlan"),
	of[tension.Judged]("Judged"),
	// what the screens show
	of[view.View]("View"), of[view.Row]("Row"), of[lang.Span]("Words"), of[virtual.Lifeline]("Lifeline"), of[view.State]("StepState"),
	of[view.Drawing]("Drawing"), of[view.Derived]("Derived"), of[desk.Reading]("Reading"),
	of[desk.Place]("Place"), of[desk.Entry]("LinkEntry"), of[desk.RoleRow]("RoleRow"), of[desk.Somebody]("Somebody"), of[desk.Passage]("Passage"),
	of[desk.LatchMark]("LatchMark"), of[desk.Meta]("RevisionMeta"), of[desk.Sibling]("Sibling"), of[desk.Beside]("Beside"), of[virtual.Standing]("Standing"), of[procedure.Task]("Task"), of[engine.Place]("Point"), of[engine.Fluid]("Fluid"), of[desk.ProcedureRow]("ProcedureRow"),
	of[desk.Revision]("Revision"), of[desk.Saved]("Saved"), of[desk.ClashStep]("ClashStep"), of[desk.RecordLine]("RecordEntry"),
	of[desk.EngineRow]("EngineRow"), of[desk.EnginePage]("EnginePage"), of[desk.Archetype]("Archetype"), of[view.DerivedClosing]("DerivedClosing"), of[desk.EngineView]("EngineView"), of[desk.SheetMeta]("SheetMeta"), of[desk.Leading]("Leading"), of[engine.CaseLine]("CaseLine"), of[engine.Field]("SheetField"), of[desk.Sheet]("Sheet"),
	of[document.Tool]("SheetTool"), of[document.Pick]("SheetPick"), of[document.Part]("SheetPart"), of[document.Torque]("SheetTorque"), of[document.Phase]("SheetPhase"), of[document.Step]("SheetStep"), of[document.Pair]("SheetPair"), of[document.Flat]("SheetBlock"), of[document.FlatRow]("SheetRow"), of[desk.Kept]("Kept"),
	of[desk.Touch]("Touch"), of[desk.Redlined]("Redlined"), of[desk.ReadState]("ReadState"), of[desk.Task]("DeskTask"), of[desk.UnreadStep]("UnreadStep"), of[desk.Marking]("Marking"), of[desk.Said]("Said"), of[desk.Remark]("Remark"), of[desk.Answer]("Answer"), of[desk.Effect]("Effect"), of[desk.Answered]("Answered"), of[desk.Arrangement]("Arrangement"), of[desk.Colleague]("Colleague"), of[desk.ReleasePlan]("ReleasePlan"), of[desk.SignedLatch]("SignedLatch"), of[desk.SheetReview]("SheetReview"), of[desk.ReviewedThing]("ReviewedThing"), of[desk.SheetMarking]("SheetMarking"), of[desk.SheetsBeside]("Engines"), of[desk.Drawn]("DrawnEngine"), of[desk.CopyAsk]("CopyAsk"), of[desk.Copied]("Copied"), of[adapt.Pair]("CopyPair"), of[adapt.Other]("CopyOther"), of[adapt.Note]("CopyNote"), of[desk.ChangeAsk]("ChangeAsk"), of[desk.ChangePlan]("ChangePlan"), of[desk.ChangePage]("ChangePage"), of[desk.ChangeThen]("ChangeThen"), of[replace.Place]("ChangePlace"), of[replace.Text]("ChangeText"), of[desk.ChangeDo]("ChangeDo"), of[desk.Changed]("Changed"), of[desk.WhereUsed]("WhereUsed"), of[desk.UsedOn]("UsedOn"), of[desk.UsedAt]("UsedAt"), of[desk.FieldNote]("FieldNote"), of[desk.NewNote]("NewNote"), of[desk.FieldAnswer]("FieldAnswer"), of[desk.LatchWant]("LatchWant"), of[desk.Withdrawn]("Withdrawn"), of[desk.Timeline]("Timeline"), of[desk.Version]("Version"), of[desk.VersionClosing]("VersionClosing"), of[redline.Redline]("Redline"), of[redline.Row]("RedlineRow"), of[redline.Part]("RedlinePart"), of[redline.Word]("RedlineWord"), of[redline.Said]("SaidOnPage"), of[desk.Reproof]("Reproof"), of[desk.ReproofRow]("ReproofRow"), of[desk.Settled]("Settled"),
	of[desk.Rim]("Rim"), of[desk.RimAnswer]("RimAnswer"), of[desk.ToothAsk]("ToothAsk"), of[desk.ToothAnswer]("ToothAnswer"),
	of[desk.DropsAsk]("DropsAsk"), of[desk.DropsAnswer]("DropsAnswer"), of[desk.ClampAsk]("ClampAsk"), of[desk.ClampAnswer]("ClampAnswer"), of[desk.Ends]("Ends"), of[desk.ConvertAsk]("ConvertAsk"), of[desk.Converted]("Converted"), of[desk.ConvertAnswer]("ConvertAnswer"), of[desk.CoursePoint]("CoursePoint"), of[desk.Otherwise]("Otherwise"), of[desk.OnWrench]("OnWrench"), of[desk.CourseAsk]("CourseAsk"), of[desk.CourseAnswer]("CourseAnswer"), of[desk.StepBolt]("StepBolt"), of[desk.CribVariant]("CribVariant"), of[desk.KeptFile]("KeptFile"), of[desk.HouseVersion]("HouseVersion"), of[desk.HouseFamily]("HouseFamily"), of[house.Choice]("HouseChoice"), of[house.Question]("HouseQuestion"), of[house.Limit]("HouseLimit"), of[house.Weighed]("WeighedRule"), of[desk.HouseRules]("HouseRules"), of[desk.HouseTrialRow]("HouseTrialRow"), of[desk.HouseTrial]("HouseTrial"), of[desk.DrillLook]("DrillLook"), of[desk.DrillMistake]("DrillMistake"), of[desk.DrillFamily]("DrillFamily"), of[desk.DrillStep]("DrillStep"), of[desk.Drilled]("Drilled"), of[desk.DrillSettled]("DrillSettled"), of[desk.DrillCount]("DrillCount"), of[desk.DrillPair]("DrillPair"), of[desk.DrillPairs]("DrillPairs"), of[desk.DrillChanged]("DrillChanged"), of[desk.DrillChange]("DrillChange"), of[desk.DrillOff]("DrillOff"), of[desk.DrillFrame]("DrillFrame"), of[desk.OldPage]("OldPage"), of[desk.OldLine]("OldLine"), of[desk.DrillFilm]("DrillFilm"), of[desk.DrillTells]("DrillTells"), of[desk.Calibration]("Calibration"), of[desk.CribRow]("CribRow"), of[desk.Crib]("Crib"), of[desk.SourceOnCode]("SourceOnCode"), of[desk.SourceRow]("SourceRow"), of[desk.SourceList]("SourceList"), of[desk.TorqueColumn]("TorqueColumn"), of[desk.TorqueRow]("TorqueRow"), of[desk.TorqueTable]("TorqueTable"), of[desk.TorqueChange]("TorqueChange"), of[desk.TorqueTrouble]("TorqueTrouble"), of[desk.TorqueChanges]("TorqueChanges"), of[desk.WrenchAsk]("WrenchAsk"), of[desk.WrenchAnswer]("WrenchAnswer"), of[desk.NoteAsk]("NoteAsk"), of[desk.NoteAnswer]("NoteAnswer"),
}

// bounds are what the contract says of a value beside its type, by its place.
var bounds = map[string]string{
	"SheetEdit.path":      "maxLength: 200",
	"SheetEdit.before":    "maxLength: 80",
	"Car.options":         "maxItems: 20",
	"NoteAsk.readings":    "maxItems: 200",
	"RevisionMeta.state":  "enum: [draft, on review, latched, superseded, withdrawn, deleted]",
	"Marking.steps":       "maxItems: 1000",
	"SheetMarking.things": "maxItems: 1000",
	"ReviewedThing.kind":  "enum: [new, gone, changed]",
	"ChangeDo.places":     "maxItems: 2000",
	"DeskTask.kind":       "enum: [settle, answer, note, mend, release, review, prove, house, source, sheet, write, on review, answered]",
	"FieldNote.state":     "enum: [open, answered, point, closed]",
	"FieldAnswer.state":   "enum: [answered, point, closed]",
	"UnreadStep.why":      "enum: [never, again, gone]",
	"CopyPair.how":        "enum: [same, proposed, asked, said]",
	"LatchWant.what":      "enum: [findings, read, questions, must-changes]",
	"Said.kind":           "enum: [question, remark, must-change, suggestion]",
	"Said.place":          "enum: [page, phase, step, words, drawing, thing]",
	"Remark.kind":         "enum: [question, remark, must-change, suggestion]",
	"Remark.place":        "enum: [page, phase, step, words, drawing, thing]",
	"Remark.state":        "enum: [open, settled, taken, declined, waived]",
	"Answer.act":          "enum: [reply, settle, reopen, take, decline, waive]",
	"Answered.act":        "enum: [reply, settle, reopen, take, decline, waive]",
	"RedlineRow.kind":     "enum: [same, changed, moved, new, gone, split, joined]",
	"RedlineWord.is":      "enum: [stays, out, in]",
	"Words.kind":          "enum: [verb, object, text, value]",
	"Lifeline.kind":       "enum: [plug, lock, holder, pin, loop]",
	"SheetField.kind":     "enum: [words, figure, whole, quantity, tick, choice, one, several, line]",
	"Field.kind":          "enum: [thing, things, quantity, number, text, choice, tick, stages, stages by case]",
	"Reading.aside":       "enum: [note, caution]",
}
