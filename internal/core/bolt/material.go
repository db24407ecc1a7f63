package bolt

import "inklatch/internal/core/unit"

// Material is what a part is made of that a bolt clamps or is screwed into.
type Material string

// The materials; the empty one is what nobody says.
const (
	Unsaid    Material = ""
	Steel     Material = "steel"
	CastIron  Material = "cast iron"
	Aluminium Material = "aluminium"
	Magnesium Material = "magnesium"
)

// Choices are the materials.
func (Material) Choices() []string {
	return []string{string(Unsaid), string(Steel), string(CastIron), string(Aluminium), string(Magnesium)}
}

// gigapascal is a thousand N/mm².
const gigapascal = 1000

// Elastic is Young's modulus, N/mm²: handbook values, from memory. What nobody says lies
// between magnesium and steel.
func (m Material) Elastic() Band[unit.Stress] {
	switch m {
	case Steel:
		return Band[unit.Stress]{200 * gigapascal, 210 * gigapascal}
	case CastIron:
		return Band[unit.Stress]{90 * gigapascal, 170 * gigapascal}
	case Aluminium:
		return Band[unit.Stress]{68 * gigapascal, 76 * gigapascal}
	case Magnesium:
		return Band[unit.Stress]{41 * gigapascal, 46 * gigapascal}
	}
	return Band[unit.Stress]{41 * gigapascal, 210 * gigapascal}
}

// Shear is the stress at which a tapped thread of it is torn out, N/mm²: 0.6 to 0.65 of the
// tensile strength of common castings and forgings for steel and light metal, 0.9 for cast
// iron. The ratios are of the kind VDI 2230 gives, from memory; the castings are an
// assumption, wide on purpose. Nothing is known of what nobody says.
func (m Material) Shear() (Band[unit.Stress], bool) {
	switch m {
	case Steel:
		return Band[unit.Stress]{300, 520}, true
	case CastIron:
		return Band[unit.Stress]{180, 320}, true
	case Aluminium:
		return Band[unit.Stress]{105, 210}, true
	case Magnesium:
		return Band[unit.Stress]{85, 140}, true
	}
	return Band[unit.Stress]{}, false
}
