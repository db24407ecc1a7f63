package route_test

import (
	"fmt"
	"math"

	"inklatch/internal/core/engine/route"
)

// An open belt over two equal wheels is twice the distance of their centres and one
// circumference long.
func ExampleLay() {
	p, err := route.Lay([]route.Circle{
		{Wheel: "left", Centre: route.Point{X: 0, Y: 0}, Radius: 20, Sense: 1},
		{Wheel: "right", Centre: route.Point{X: 100, Y: 0}, Radius: 20, Sense: 1},
	})
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Printf("%.3f mm, by hand %.3f mm\n", float64(p.Length()), 2*100+2*math.Pi*20)
	// Output: 325.664 mm, by hand 325.664 mm
}
