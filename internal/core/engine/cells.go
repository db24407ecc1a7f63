package engine

import "slices"

// mostCells bounds how many engines stand for all of a code.
const mostCells = 48

// Cells are engines that stand for all of a code within some years: one for each
// combination of years, build numbers and options between which nothing on the
// sheet changes. None for a sheet on which nothing varies. Of more than
// forty-eight combinations the first are given; all is how many there are.
func (s *Sheet) Cells(within Years) (cells []Car, all int) {
	if len(s.Varies) == 0 {
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
			years = append(years, c.When.Years.From, next(c.When.Years.To))
			builds = append(builds, c.When.Builds.From, next(c.When.Builds.To))
			options = append(append(options, c.When.With...), c.When.Without...)
		}
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
				car := Car{Year: y}
				if len(builds) > 1 {
					car.Build = b
				}
				for i, o := range options {
					if set>>i&1 == 1 {
						car.Options = append(car.Options, o)
					}
				}
				if len(cells) < mostCells {
					cells = append(cells, car)
				}
			}
		}
	}
	return cells, all
}
