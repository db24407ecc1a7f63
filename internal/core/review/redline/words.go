package redline

import "strings"

// Word is a run of words of a sentence.
type Word struct {
	Text string `json:"text"`
	// Is says whether they stay, went out, or came in.
	Is Is `json:"is"`
}

// Is says what became of words.
type Is string

// What becomes of words.
const (
	Stays Is = "stays"
	Out   Is = "out"
	In    Is = "in"
)

// Words lays one sentence over another: the longest run of words that follow each
// other in both stays (longest common subsequence, by dynamic programming), the
// others went out or came in. The words that stay and those that went out are the
// earlier sentence, those that stay and those that came in the later one.
func Words(before, after string) []Word {
	a, b := strings.Fields(before), strings.Fields(after)
	// long[i][j] is the longest run of a from i and b from j.
	long := make([][]int, len(a)+1)
	for i := range long {
		long[i] = make([]int, len(b)+1)
	}
	for i := len(a) - 1; i >= 0; i-- {
		for j := len(b) - 1; j >= 0; j-- {
			if a[i] == b[j] {
				long[i][j] = long[i+1][j+1] + 1
			} else {
				long[i][j] = max(long[i+1][j], long[i][j+1])
			}
		}
	}
	var out []Word
	put := func(w string, is Is) {
		if n := len(out) - 1; n >= 0 && out[n].Is == is {
			out[n].Text += " " + w
			return
		}
		out = append(out, Word{w, is})
	}
	i, j := 0, 0
	for i < len(a) || j < len(b) {
		switch {
		case i < len(a) && j < len(b) && a[i] == b[j]:
			put(a[i], Stays)
			i, j = i+1, j+1
		case j == len(b) || i < len(a) && long[i+1][j] >= long[i][j+1]:
			put(a[i], Out)
			i++
		default:
			put(b[j], In)
			j++
		}
	}
	return out
}
