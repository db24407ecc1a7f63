package step

import (
	"inklatch/internal/core/unit"
)

// WithOther is a torque with its figure in the other unit system beside it.
func WithOther(q unit.Quantity) unit.Quantity {
	o := OtherTorque(q)
	if o.Unit == q.Unit {
		return q
	}
	q.Also, q.AlsoHigh, q.AlsoUnit = o.Value, o.High, o.Unit
	if o.TolUnit == o.Unit {
		q.AlsoTol, q.AlsoLess = o.Tol, o.Less
	}
	return q
}

// OtherTorque is a torque in the other unit system: small ones in lbf·in, the
// rest in lbf·ft, and imperial ones in N·m.
func OtherTorque(q unit.Quantity) unit.Quantity {
	u := unit.PoundForceFoot
	if t, _ := q.Torque(); t < 15 {
		u = unit.PoundForceInch
	}
	if q.Unit != unit.NewtonMetre && q.Unit != unit.NewtonCentimetre {
		u = unit.NewtonMetre
	}
	o, err := q.In(u)
	if err != nil {
		return q
	}
	return o
}
