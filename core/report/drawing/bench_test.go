package drawing_test

import (
	"testing"

	"leitstand/core/compile"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/picture"
	"leitstand/core/report/drawing"
	"leitstand/core/station"
	"leitstand/examples"
)

// boards are those of the example, without their layers.
func boards(t testing.TB) []*picture.Board {
	t.Helper()
	mp, diags, err := mapping.Load(mechanism.Folder{{Path: "m.hcl", Data: examples.TideOffice}}, "m.hcl", "")
	if err != nil || len(diags) > 0 {
		t.Fatal(err, diags)
	}
	builds, _, err := compile.All(mp, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	stations, err := station.All(mp, builds)
	if err != nil {
		t.Fatal(err)
	}
	list, err := picture.Every(stations, picture.Asked{})
	if err != nil {
		t.Fatal(err)
	}
	return list
}

// BenchmarkBoards draws the first board of the example.
func BenchmarkBoards(b *testing.B) {
	first := boards(b)[:1]
	for _, format := range drawing.Formats {
		b.Run(format, func(b *testing.B) {
			for b.Loop() {
				if _, err := drawing.Boards(format, first, false); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
