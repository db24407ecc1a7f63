package unit

import "strings"

// Bare gives a bare number the unit it means where it is typed: "27" with N·m is
// "27 N·m". Text that has a unit, or is no number, is given back as it is.
func Bare(text string, u Unit) string {
	text = strings.TrimSpace(text)
	if u == "" || len(Find(text)) > 0 {
		return text
	}
	with := text + " " + string(u)
	if ms := Find(with); len(ms) == 1 && ms[0].Start == 0 && ms[0].End == len(with) {
		return with
	}
	return text
}

// Judge reads one quantity as a person types it into a field of its own, and
// refuses what a line would ask about: a mark that could stand between
// thousands, a tolerance above its value, a limit on one side.
func Judge(text string) (Quantity, error) {
	text = strings.TrimSpace(text)
	for _, m := range Find(text) {
		said := strings.EqualFold(strings.TrimSpace(text[:m.Start]), "between") && m.Quantity.Range
		if (m.Start == 0 || said) && m.End == len(text) {
			if m.Problem != "" {
				return Quantity{}, problem(m.Problem)
			}
			return m.Quantity, nil
		}
	}
	return Parse(text)
}

type problem string

func (p problem) Error() string { return string(p) }
