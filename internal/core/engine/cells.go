package engine

import "slices"

// mostCells bounds how many engines stand for all of a code.
const mostCells = 48

// CellNames are cells in words, each with the years it stands for: up to the next
// one at which something changes, or the end of the code's years within some.
func (s *Sheet) CellNames(cells []Car, within Years) []string {
	last := s.Years.To
	if within.To > 0 && (last == 0 || within.To < last) {
		last = within.To
	}
	var starts []int
	for _, c := range cells {
		starts = append(starts, c.Year)
	}
	slices.Sort(starts)
	starts = slices.Compact(starts)
	out := make([]string, len(cells))
	for i, c := range cells {
		w := When{Years: Years{From: c.Year, To: last}, With: c.Options}
		if k, ok := slices.BinarySearch(starts, c.Year); ok && k+1 < len(starts) {
			w.Years.To = starts[k+1] - 1
		}
		if len(starts) == 1 && len(cells) > 1 {
			w.Years = Years{} // the years do not tell them apart
		}
		if c.Build > 0 {
			w.Builds.From = c.Build
		}
		if out[i] = w.String(); w.All() {
			out[i] = "without options"
		}
	}
	return out
}

// Cells are engines that stand for all of a code within some years: one for each
// combination of years, build numbers and options between which nothing on the
// sheet changes, nor any of some whens of a page begins or ends. None where nothing
// varies. Of more than
// forty-eight combinations the first are given; all is how many there are.
func (s *Sheet) Cells(within Years, whens ...When) (cells []Car, all int) {
	if len(s.Varies)+len(whens) == 0 {
		return nil, 0
	}
	from, to := s.Years.From, s.Years.To
	if to == 0 {
		to = lastYear
	}
	if within.From > 0 {
		from = max(from, within.From)
	}
	if within.To > 0 {
		to = min(to, within.To)
	}
	years, builds := []int{from}, []int{1}
	var options []string
	for i := range s.Varies {
		for _, c := range s.Varies[i].Cases {
			whens = append(whens, c.When)
		}
	}
	for _, w := range whens {
		years = append(years, w.Years.From, next(w.Years.To))
		builds = append(builds, w.Builds.From, next(w.Builds.To))
		options = append(append(options, w.With...), w.Without...)
	}
	years, builds = sorted(years, from, to), sorted(builds, 1, 1<<60)
	slices.Sort(options)
	options = slices.Compact(options)
	all = len(years) * len(builds) << min(len(options), 30)
	if len(options) > maxOptions {
		options = options[:maxOptions]
	}
	for _, y := range years {
		for _, b := range builds {
			for set := range 1 << len(options) {
				if len(cells) == mostCells {
					return cells, all
				}
				car := Car{Year: y}
				if len(builds) > 1 {
					car.Build = b
				}
				for i, o := range options {
					if set>>i&1 == 1 {
						car.Options = append(car.Options, o)
					}
				}
				cells = append(cells, car)
			}
		}
	}
	return cells, all
}
