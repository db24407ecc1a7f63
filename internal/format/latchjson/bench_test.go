package latchjson_test

import (
	"bytes"
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/page/step"
	"inklatch/internal/format/latchjson"
)

// BenchmarkDecode200 is what BenchmarkProve200 of the proof is held against: the
// same two hundred steps, read from their file.
func BenchmarkDecode200(b *testing.B) {
	d := demo.Document("renew-timing-belt-r3.latch.json")
	one := d.Procedure.Steps
	d.Procedure.Steps = nil
	for i := range 200 {
		s := one[i%len(one)]
		s.ID = step.ID(fmt.Sprintf("n%d", i))
		d.Procedure.Steps = append(d.Procedure.Steps, s)
	}
	raw, err := latchjson.Encode(d)
	require.NoError(b, err)
	require.Greater(b, bytes.Count(raw, []byte("verb")), 199)
	b.ReportAllocs()
	for b.Loop() {
		if _, err := latchjson.Decode(raw); err != nil {
			b.Fatal(err)
		}
	}
}
