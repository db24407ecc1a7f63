package quickline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var paintGrammar = &grammar{
	read: readPaint,
}

var paintMarks = []string{"a mark", "marks", "a paint mark", "paint marks", "a line", "lines", "your own marks", "the paint marks", "paint mark", "mark", "line", "timing marks of your own"}

func readPaint(l *Line) step.Action {
	a := &step.Paint{}
	if l.phrase == "copy" || l.phrase == "transfer" {
		l.Skip("the")
		if !l.Say("paint marks", "marks", "paint", "painted marks", "own marks") {
			l.unread(l.pos)
			return a
		}
		a.Copy = true
		l.Say("from the old belt", "from old belt", "from the old one")
		l.Say("over to", "to", "onto", "on to")
		l.Skip("the", "new")
		l.Clauses(Thing(l, &a.Loop, engine.KindLoop), l.Filler("new", "from the old belt", "from old belt", "from the old one", "one"))
		if a.Loop == "" && len(l.left) == 0 {
			l.refuse("it does not say to what they are copied")
		}
		return a
	}
	made := l.Say(paintMarks...)
	if l.phrase == "paint" && !made {
		l.unread(l.pos)
		return a
	}
	l.Clauses(
		func() bool { return l.Say("across", "over") && Thing(l, &a.Loop, engine.KindLoop)() },
		func() bool {
			l.Say("on", "and on", "onto", "to", "at")
			return Several(l, &a.Wheels, engine.KindWheel)()
		},
		func() bool {
			l.Say("on", "and on", "onto", "to", "at")
			return Thing(l, &a.Loop, engine.KindLoop)()
		},
		l.Filler("the head", "head", "the block", "block", "the housing", "housing", "the casting", "beside it", "beside them", "with paint", "in paint", "the cover behind it", "rear cover", "the rear cover"),
	)
	if len(a.Wheels) == 0 && len(l.left) == 0 {
		l.refuse("it does not say on which wheel")
	}
	return a
}
