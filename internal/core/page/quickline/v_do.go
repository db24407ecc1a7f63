package quickline

import (
	"slices"
	"strings"

	"inklatch/internal/core/page/step"
)

var doGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Do{}
		if l.end() {
			return a
		}
		// "Do" says that what follows is to stay text. "Do not", "do up", "do the same" are no
		// such word: of those nothing is cut off.
		if l.pos != 1 || slices.Contains([]string{"not", "up", "the", "so", "this", "that", "it", "same", "likewise", "again", "all", "both", "each", "them", "these", "those"}, l.tokens[l.pos].word) {
			for !l.end() {
				l.unread(l.pos)
				l.pos++
			}
			return a
		}
		a.Text = strings.TrimSpace(l.text[l.tokens[l.pos].start:])
		l.pos = len(l.tokens)
		l.loose = true
		return a
	},
}
