package demo

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"slices"
	"time"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/unit"
	"inklatch/internal/desk"
	"inklatch/internal/desk/view"
)

// next is one further revision of a procedure: why it was made, and the edits, made
// from the steps as they stand.
type next struct {
	reason string
	edits  func(s func(step.ID) *step.Step) []procedure.Edit
}

func replaced(s *step.Step) procedure.Edit { return procedure.Edit{Op: procedure.Replace, Step: s} }

// inOil are revisions 2 to 5 of the belt in oil; the last is left on review.
var inOil = []next{
	{"Field note: crumbs of belt were found in a strainer that nobody had looked at.", func(s func(step.ID) *step.Step) []procedure.Edit {
		strainer, cover := s("t17"), s("t03")
		strainer.Note = "Crumbs of belt in the strainer starve the oil pump. Look into the pump’s pickup as well."
		cover.Note = "Keep crumbs out of the camshaft housing."
		return []procedure.Edit{replaced(strainer), replaced(cover)}
	}},
	{"Letter EL-0588: the engine is listened to for longer, and the caution on the spring arm says why.", func(s func(step.ID) *step.Step) []procedure.Edit {
		run, arm := s("t45"), s("t13")
		n := *run.Action.(*step.Start)
		n.For = unit.Of(1, unit.Minute)
		run.Action = &n
		arm.Cautions = []step.Caution{{Hazard: engine.HazardSpring, Text: "The arm is under spring force and jumps when the pin comes out. Keep fingers clear and let it move slowly."}}
		return []procedure.Edit{replaced(run), replaced(arm)}
	}},
	{"Workshop 4: the cam cover goes on before the block plug, so that the oil runs off.", func(func(step.ID) *step.Step) []procedure.Edit {
		return []procedure.Edit{
			{Op: procedure.Move, ID: "t40", After: "t37"}, {Op: procedure.Move, ID: "t41", After: "t40"},
		}
	}},
	{"Field note 31: a roller was put back on. The pulley’s washer is named.", func(s func(step.ID) *step.Step) []procedure.Edit {
		pulley, look, run := s("t28"), s("t17"), s("t45")
		pulley.Note = "The friction washer goes on dry and clean, its diamond side to the pulley."
		look.Note = "Crumbs of belt in the strainer starve the oil pump. Look into the pump’s pickup as well, with a lamp."
		n := *run.Action.(*step.Start)
		n.For = unit.Of(2, unit.Minute)
		run.Action = &n
		return []procedure.Edit{
			replaced(pulley), replaced(look), replaced(run),
			{Op: procedure.Insert, After: "t15", Step: &step.Step{ID: "t15a", Phase: "take-off", Action: &step.Do{Text: "lay the roller and the tensioner aside for the field engineer"}}},
			{Op: procedure.Move, ID: "t42", After: "t43"},
		}
	}},
}

// team leaves a team at work: a procedure with five revisions of which the last is
// on review, remarks on both that are, and due dates around today.
func (l loader) team(ctx context.Context, oil, banks int64) error {
	r, err := l.d.Drafts.Revision(ctx, l.who["ines"], oil)
	if err != nil {
		return err
	}
	proc := r.Meta.Procedure
	for i, n := range inOil {
		l.past.back([]int{29, 21, 12, 4}[i])
		id, err := l.d.Drafts.NewDraft(ctx, l.who["ines"], proc, n.reason, 0)
		if err != nil {
			return err
		}
		if err := l.change(ctx, id, n); err != nil {
			return fmt.Errorf("revision %d of the belt in oil: %w", i+2, err)
		}
		if i < len(inOil)-1 {
			err = l.latch(ctx, id)
		} else {
			err = l.review(ctx, id, banks)
		}
		if err != nil {
			return fmt.Errorf("revision %d of the belt in oil: %w", i+2, err)
		}
	}
	return nil
}

// change makes the edits of one further revision.
func (l loader) change(ctx context.Context, id int64, n next) error {
	r, err := l.d.Drafts.Revision(ctx, l.who["jonas"], id)
	if err != nil {
		return err
	}
	find := func(id step.ID) *step.Step {
		for i := range r.View.Rows {
			if r.View.Rows[i].Step.ID == id {
				s := r.View.Rows[i].Step
				return &s
			}
		}
		panic(fmt.Sprintf("no step %s", id))
	}
	_, err = l.d.Drafts.Save(ctx, l.who["jonas"], id, desk.Batch{Name: fmt.Sprintf("demo-%d-next", id), Client: "demo", Base: r.Meta.Version, Edits: n.edits(find)})
	return err
}

// review sends the newest revision round and lets people speak of both that are
// on review.
func (l loader) review(ctx context.Context, oil, banks int64) error {
	if err := l.close(ctx, "ines", oil, latch.ByAuthor); err != nil {
		return err
	}
	for _, v := range []struct {
		id   int64
		at   latch.Latch
		days int
	}{
		{oil, latch.ByTechnical, 0}, {oil, latch.ByEditorial, 3}, {banks, latch.ByTechnical, 6}, {banks, latch.ByBench, -1}, {banks, latch.ByEditorial, 6},
	} {
		due := time.Now().AddDate(0, 0, v.days).Format(time.DateOnly)
		if err := l.d.Review.Arrange(ctx, l.who["ines"], v.id, v.at, desk.Arrangement{Due: &due}); err != nil {
			return err
		}
	}
	l.past.back(3)
	mirja := l.who["technical editor"].ID
	if err := l.d.Review.Arrange(ctx, l.who["technical editor"], oil, latch.ByTechnical, desk.Arrangement{Person: &mirja}); err != nil {
		return err
	}
	// Mirja has read most of the revision before this one grew.
	if err := l.readBut(ctx, "technical editor", oil, "t15a", "t17", "t42", "t45"); err != nil {
		return err
	}
	for _, v := range []struct {
		by string
		on int64
		desk.Said
		answers [][3]string
	}{
		{"technical editor", oil, desk.Said{Kind: desk.Question, Place: "step", Step: "t45", Body: "Which letter asks for two minutes? EL-0588 said one, @Ines Okafor."}, [][3]string{
			{"ines", "reply", "Workshop 4 heard the chain only once the oil was warm. The letter is being drawn up."},
		}},
		{"bench technician", oil, desk.Said{Kind: desk.MustChange, Place: "step", Step: "t15a", Body: "Say where they are laid. On the bench they were put back on by the next shift."}, nil},
		{"editorial editor", oil, desk.Said{Kind: desk.Suggestion, Place: "step", Step: "t15a", Line: "do mark the roller and the tensioner as used and lay them into the box for the field engineer", Body: "So that nobody takes them for new."}, nil},
		{"editorial editor", oil, desk.Said{Kind: desk.Note, Place: "step", Step: "t17", Body: "“With a lamp” is good. We should say it on the chain’s page too."}, [][3]string{{"jonas", "settle", "Noted for the chain."}}},
		{"lead", banks, desk.Said{Kind: desk.Question, Place: "step", Step: "v24", Body: "Is 68 mm the plunger out, or pressed back? The sheet does not say."}, nil},
		{"lead", banks, desk.Said{Kind: desk.Suggestion, Place: "step", Step: "v38", Line: "wait 20 min", Body: "Workshop 2 waits twenty minutes below freezing."}, nil},
	} {
		l.past.pass(50 * time.Minute)
		m, err := l.d.Review.Say(ctx, l.who[v.by], v.on, v.Said)
		if err != nil {
			return fmt.Errorf("%q: %w", v.Body, err)
		}
		for _, a := range v.answers {
			l.past.pass(25 * time.Minute)
			if err := l.d.Review.AnswerRemark(ctx, l.who[a[0]], m.ID, desk.Answered{Act: a[1], Body: a[2]}); err != nil {
				return err
			}
		}
	}
	return nil
}

// field leaves three notes by a reader: of the belt and tensioner one that waits,
// with a photo, and one that was answered; of another release one that is a point
// of its next draft.
func (l loader) field(ctx context.Context, release, other int64) error {
	pavel, ines := l.who["reader"], l.who["ines"]
	for _, n := range []struct {
		release             int64
		step                step.ID
		body, state, answer string
	}{
		{release, "s25", "Hut 3, groomer 114: the idler’s backing plate had a burr and the new roller ran against it. Filed off, refitted.", "", ""},
		{release, "s02", "The accessory belt of 2019 has another run than the sticker shows.", "answered", "The sticker is of the older drive; EL-0499 tells the workshops to take it off."},
		{other, "", "Two of us looked for the chain pin in the kit. Say which kit it is in.", "point", "We will name the kit in the tool list."},
	} {
		l.past.pass(85 * time.Minute)
		r, err := l.d.Drafts.Revision(ctx, pavel, n.release)
		if err != nil {
			return err
		}
		if n.step != "" && !slices.ContainsFunc(r.View.Rows, func(v view.Row) bool { return v.Step.ID == n.step }) {
			return fmt.Errorf("no step %s", n.step)
		}
		v, err := l.d.Review.AddFieldNote(ctx, pavel, n.release, desk.NewNote{Step: n.step, Body: n.body})
		if err != nil {
			return err
		}
		l.past.pass(12 * time.Minute)
		if n.state == "" {
			err = l.d.Review.AddPhoto(ctx, pavel, v.ID, photo())
		} else {
			err = l.d.Review.AnswerFieldNote(ctx, ines, v.ID, desk.FieldAnswer{State: n.state, Answer: n.answer})
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// photo is a made-up photo of a roller and a bright mark on it.
func photo() []byte {
	m := image.NewGray(image.Rect(0, 0, 320, 240))
	for y := range 240 {
		for x := range 320 {
			dx, dy := float64(x-150), float64(y-125)
			d := math.Hypot(dx, dy)
			v := 58 + 18*math.Sin(float64(x+2*y)/23)
			switch {
			case d < 24:
				v = 30
			case d < 88:
				v = 120 + 60*math.Cos(math.Atan2(dy, dx)+0.7) + 9*math.Sin(d)
			}
			if math.Hypot(float64(x-214), float64(y-78)) < 9 {
				v = 235
			}
			m.SetGray(x, y, color.Gray{Y: uint8(min(max(v, 0), 255))})
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, m); err != nil {
		panic(err) // a buffer takes everything
	}
	return b.Bytes()
}

// readBut marks all of a revision as read by somebody, but for some steps.
func (l loader) readBut(ctx context.Context, who string, id int64, but ...step.ID) error {
	u := l.who[who]
	version, err := Read(ctx, l.d, u, id)
	if err != nil {
		return err
	}
	r, err := l.d.Review.Redline(ctx, u, id, 0)
	if err != nil {
		return err
	}
	_, err = l.d.Review.MarkRead(ctx, u, id, desk.Marking{Version: version, Sheet: r.Reading.Sheet, Steps: but, Unread: true})
	return err
}
